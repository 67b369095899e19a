import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { Dialog } from '../ui/dialog';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { CutShort, Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { PeoplePlaces } from './people-places';
import { MergeTwo, type Pair } from './merge-two';

type Alike = Pair['alike'][number];

const ALIKE_WORDS: Readonly<Record<Alike, string>> = {
  mailbox: 'the same mailbox',
  phone: 'the same phone',
  name: 'the same name',
  company: 'the same company',
};
const wordsOf = ({ alike }: Pair): string => new Intl.ListFormat('en').format(alike.map((each) => ALIKE_WORDS[each]));
const keyOf = ({ contacts }: Pair): string => contacts.map(({ id }) => id).join(' ');

/** Contacts that may be one person: looked at side by side and merged, or said to be two. */
export default function DuplicatesPage() {
  const { data, error, refetch } = api.useDuplicatesQuery();
  const mayMerge = useMay('contacts:write');
  const [looked, setLooked] = useState<Pair>();
  return (
    <Page
      title={
        <>
          Perhaps one person: <em className="text-primary not-italic">{data ? count(data.all) : '…'}</em>
        </>
      }
      sentence="Contacts that share a mailbox, a phone, or a name and a company. Merging can be undone: the two are parted again."
      actions={mayMerge && data && data.certain > 0 && <MergeCertain pairs={data.pairs.filter(({ isCertain }) => isCertain)} />}
    >
      <PeoplePlaces />
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : data.pairs.length === 0 ? (
        <Empty title="Nobody is here twice">Whoever shares a mailbox, a phone, or a name and a company with another is shown here.</Empty>
      ) : (
        <>
          <ul className="panel divide-base-300/60 divide-y" aria-label="Pairs">
            {data.pairs.map((pair) => (
              <PairRow key={keyOf(pair)} pair={pair} mayMerge={mayMerge} onLook={() => setLooked(pair)} />
            ))}
          </ul>
          <CutShort shown={data.pairs.length} of={data.all} />
        </>
      )}
      {looked && <MergeTwo pair={looked} words={wordsOf(looked)} onClose={() => setLooked(undefined)} />}
    </Page>
  );
}

function PairRow({ pair, mayMerge, onLook }: { pair: Pair; mayMerge: boolean; onLook: () => void }) {
  const [keepApart, { isLoading }] = api.useKeepApartMutation();
  const dispatch = useAppDispatch();
  const [a, b] = pair.contacts;
  const apart = async (): Promise<void> => {
    const { error } = await keepApart({ body: { a: a?.id ?? '', b: b?.id ?? '' } });
    dispatch(
      told(
        error
          ? { kind: 'wrong', text: errorMessage(error) }
          : { kind: 'done', text: `${a?.name ?? ''} and ${b?.name ?? ''} are two people from now on.` },
      ),
    );
  };
  return (
    <li className="flex flex-wrap items-center gap-x-6 gap-y-1.5 px-4 py-2">
      {pair.contacts.map(({ id, name, email, company, added }) => (
        <div key={id} className="min-w-56 flex-1">
          <Link className="font-semibold hover:underline" to={`/people/${id}`}>
            {name}
          </Link>
          <div className="quiet text-[12.5px] [overflow-wrap:anywhere]">
            {[email, company].filter(Boolean).join(' · ')} · added <When at={added} />
          </div>
        </div>
      ))}
      <div className="w-56 text-[12.5px]">
        {pair.isCertain && <b className="font-medium">certain: </b>}
        {wordsOf(pair)}
      </div>
      {mayMerge && (
        <span className="flex gap-2">
          <button type="button" className="btn btn-xs" onClick={onLook}>
            Compare …
          </button>
          <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void apart()}>
            They are two
          </button>
        </span>
      )}
    </li>
  );
}

/** Merges those that are certain, one pair after another; it can be stopped on the way. */
function MergeCertain({ pairs }: { pairs: readonly Pair[] }) {
  const [isAsking, setIsAsking] = useState(false);
  const [going, setGoing] = useState<{ readonly done: number; readonly of: number }>();
  const [wrong, setWrong] = useState<string>();
  const stop = useRef(false);
  const [merge] = api.useMergeContactMutation();
  const dispatch = useAppDispatch();
  const isRunning = going !== undefined;
  const run = async (): Promise<void> => {
    stop.current = false;
    setWrong(undefined);
    // Who was merged already in this run is meant by the one that they were merged into.
    const into = new Map<string, string>();
    const standing = (id: string): string => (into.has(id) ? standing(into.get(id) ?? '') : id);
    let merged = 0;
    let isWhole = true;
    for (const { contacts } of pairs) {
      isWhole = !stop.current;
      if (!isWhole) break;
      setGoing({ done: merged, of: pairs.length });
      const [a, b] = contacts.map(({ id }) => standing(id)) as [string, string];
      if (a === b) continue;
      const { error } = await merge({ id: a, body: { other: b } });
      if (error) {
        setWrong(errorMessage(error));
        isWhole = false;
        break;
      }
      into.set(b, a);
      merged += 1;
    }
    setGoing(undefined);
    dispatch(told({ kind: 'done', text: `${count(merged)} merged. Each can be parted again on its page.` }));
    if (isWhole) setIsAsking(false);
  };
  return (
    <>
      <button type="button" className="btn btn-sm btn-primary" onClick={() => setIsAsking(true)}>
        Merge the {count(pairs.length)} certain {pairs.length === 1 ? 'one' : 'ones'} …
      </button>
      {isAsking && (
        <Dialog open title="Merge those that are certain" onClose={() => (isRunning ? (stop.current = true) : setIsAsking(false))}>
          <p>
            {count(pairs.length)} {pairs.length === 1 ? 'pair shares' : 'pairs share'} a mailbox or a phone together with a name. Whoever
            was added later is merged into whoever was there before, whose facts stand where both know one. Each pair can be parted again.
          </p>
          {isRunning && (
            <p className="mt-3 flex items-center gap-2" role="status">
              <progress className="progress progress-primary w-40" value={going.done} max={going.of} aria-label="How many are merged" />
              {count(going.done)} of {count(going.of)}
            </p>
          )}
          {wrong && (
            <p role="alert" className="text-error mt-2 font-medium">
              {wrong}
            </p>
          )}
          <div className="mt-4 flex gap-2">
            <button type="button" className="btn btn-sm btn-primary" disabled={isRunning} onClick={() => void run()}>
              Merge {count(pairs.length)}
            </button>
            {isRunning ? (
              <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => (stop.current = true)}>
                Stop
              </button>
            ) : (
              <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => setIsAsking(false)}>
                Leave it
              </button>
            )}
          </div>
        </Dialog>
      )}
    </>
  );
}
