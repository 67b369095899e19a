import { columnId, columnWords, type Catalogue } from '@eager-sieve/core';
import { type Answer } from '@eager-sieve/contracts';
import { useEffect, useEffectEvent, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { isSameCell } from '../contacts/table/same-cell';
import { entryAddress, Since } from './worklist';
import { Progress } from './worklists';

/** The list that is being worked down, above the contact who has come up: done, put off, or on to the next. */
export function WorklistStrip({ catalogue }: { catalogue: Catalogue }) {
  const [search] = useSearchParams();
  const id = Number(search.get('worklist'));
  const place = Number(search.get('place'));
  const inHand = search.has('worklist') && Number.isInteger(id) && id > 0 && Number.isInteger(place) && place >= 0;
  const { data } = api.useEntryQuery({ id, place }, { skip: !inHand });
  if (!inHand || !data) return null;
  return <Strip key={`${id} ${place}`} {...data} catalogue={catalogue} />;
}

type StripProps = Answer<'entry'> & { readonly catalogue: Catalogue };

function Strip({ worklist, entry, catalogue }: StripProps) {
  const [note, setNote] = useState(entry.note ?? '');
  const mayWork = useMay('contacts:write');
  const [mark, marking] = api.useMarkEntryMutation();
  const [next, going] = api.useNextEntryMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const { id } = worklist;
  const isBusy = marking.isLoading || going.isLoading;
  const goOn = async (): Promise<void> => {
    const { data, error } = await next({ id, body: { after: entry.place } });
    if (error) return void dispatch(told({ kind: 'wrong', text: errorMessage(error) }));
    if (data?.entry) return void (await navigate(entryAddress(id, data.entry)));
    dispatch(told({ kind: 'done', text: `There is nobody else to work on in ${worklist.name}.` }));
    await navigate(`/people/worklists/${id}`);
  };
  const say = async (state: 'done' | 'later'): Promise<void> => {
    const { error } = await mark({ id, place: entry.place, body: { state, note: note.trim() === '' ? null : note.trim() } });
    if (error) dispatch(told({ kind: 'wrong', text: errorMessage(error) }));
    else await goOn();
  };
  // With nothing else in hand, a letter does it.
  const pressed = useEffectEvent((event: KeyboardEvent): void => {
    if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || document.activeElement !== document.body) return;
    const act = { d: () => say('done'), l: () => say('later'), s: goOn }[event.key];
    if (!act || !mayWork || isBusy) return;
    event.preventDefault();
    void act();
  });
  useEffect(() => {
    addEventListener('keydown', pressed);
    return () => removeEventListener('keydown', pressed);
  }, []);
  const moved = worklist.columns.flatMap((column, at) => {
    const [was, now] = [entry.was[at] ?? null, entry.cells[at] ?? null];
    return isSameCell(was, now) ? [] : [{ column, was, now }];
  });
  return (
    <section className="panel bg-glow mb-3 flex flex-wrap items-center gap-x-4 gap-y-2 px-3.5 py-2" aria-label="Worklist">
      <Link className="leads font-semibold" to={`/people/worklists/${id}`}>
        {worklist.name}
      </Link>
      <span className="quiet">
        number {entry.place + 1}
        {entry.state !== 'waiting' && ` · ${entry.state === 'done' ? 'done' : 'put off'}`}
      </span>
      <Progress list={worklist} />
      {moved.map(({ column, was, now }) => (
        <span key={columnId(column)} className="text-[12.5px]">
          <span className="quiet">{columnWords(column, catalogue)}, since it was frozen: </span>
          <Since was={was} now={now} column={column} catalogue={catalogue} />
        </span>
      ))}
      {mayWork && (
        <span className="ml-auto flex flex-wrap items-center gap-2">
          <input
            className="input input-sm w-56"
            aria-label="A word about it"
            placeholder="a word about it"
            maxLength={2_000}
            value={note}
            onChange={(event) => setNote(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Enter' && !isBusy) void say('done');
            }}
          />
          <Act words="Done" letter="d" isMain isBusy={isBusy} onClick={() => void say('done')} />
          <Act words="Later" letter="l" isBusy={isBusy} onClick={() => void say('later')} />
          <Act words="Skip" letter="s" isBusy={isBusy} onClick={() => void goOn()} />
        </span>
      )}
    </section>
  );
}

interface ActProps {
  readonly words: string;
  readonly letter: string;
  readonly isMain?: boolean;
  readonly isBusy: boolean;
  readonly onClick: () => void;
}

const Act = ({ words, letter, isMain = false, isBusy, onClick }: ActProps) => (
  <button
    type="button"
    className={`btn btn-sm ${isMain ? 'btn-primary' : 'btn-outline btn-primary'}`}
    aria-keyshortcuts={letter}
    disabled={isBusy}
    onClick={onClick}
  >
    {words} <kbd className="font-mono text-[11px] opacity-80">{letter}</kbd>
  </button>
);
