import { useEffect, useRef, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { type Catalogue } from '@eager-sieve/core';
import { type watchBodySchema, type WatchView } from '@eager-sieve/contracts';
import { type z } from 'zod';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { KEPT, useUnsaved } from '../app/unsaved';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { AskFirst } from '../ui/ask-first';
import { count, people } from '../ui/number';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';
import { TakeBack } from '../ui/take-back';
import { Toggle } from '../ui/toggle';
import { When } from '../ui/when';
import { type Mapping, type Reading } from './import-columns';
import { chosenFrom, findsWhom, Mapped, optionsOf, readAs, RowsAre, type Chosen } from './import-mapped';
import { STANDARD, type ForAll } from './import-options';
import { Rehearsal } from './import-rehearsal';
import { Gone, Where, type Draft } from './watched-parts';

const NEW: Draft = { name: '', isOn: true, place: { kind: 'file', name: '' }, timetable: { everyMinutes: 15 }, gone: { takeOff: false } };
const POLL_MS = 3_000;

/** A watched file: where it lies, when and how it is read, and what happens to who is gone from it. */
export default function Watched() {
  const { id = 'new' } = useParams();
  const catalogue = useCatalogue();
  const { data, error } = api.useWatchQuery({ id: Number(id) }, { skip: id === 'new', pollingInterval: POLL_MS });
  if (error && !data) return <Wrong error={error} />;
  if (!catalogue || (id !== 'new' && data?.id !== Number(id))) return <Loading />;
  return <Editor key={id} kept={id === 'new' ? undefined : data} catalogue={catalogue} />;
}

function Editor({ kept, catalogue }: { kept: WatchView | undefined; catalogue: Catalogue }) {
  const mayWrite = useMay('settings:write', 'contacts:write');
  const [draft, setDraft] = useState<Draft>(() => (kept ? draftOf(kept) : NEW));
  const [forAll, setForAll] = useState<ForAll>(() => (kept ? forAllOf(kept) : STANDARD));
  const [rows, setRows] = useState<Pick<Reading, 'of' | 'signalType'>>(() => (kept ? rowsOf(kept) : { of: 'contact' }));
  const [isChanged, setChanged] = useState(false);
  const [rehearse, rehearsal] = api.useRehearseWatchMutation();
  const { chosen, setChosen, look, looking } = useHead(kept, catalogue);
  const { keep, isKeeping, error } = useKeeping(kept);
  useUnsaved(isChanged);
  const touched = (): void => {
    setChanged(true);
    rehearsal.reset();
  };
  const change = (next: Partial<Draft>): void => {
    touched();
    setDraft({ ...draft, ...next });
  };
  const read = (next: Partial<Reading>): void => {
    touched();
    if (chosen) setChosen(readAs(chosen, next, catalogue));
  };
  const options = chosen ? optionsOf(chosen, chosen.mapping, forAll) : kept?.options;
  const canRead = options !== undefined && (chosen === null || findsWhom(chosen, forAll));
  const canKeep = mayWrite && canRead && draft.name.trim() !== '' && !isKeeping && (isChanged || !kept);
  const wrong = error ?? rehearsal.error ?? looking.error;
  return (
    <Page
      title={kept ? kept.name : 'Watch a file'}
      sentence="It is looked at by a timetable, and read whenever it has changed: who is new comes in, and who is gone is seen to as you say."
      meta={kept && <State watch={kept} />}
      actions={
        mayWrite && (
          <>
            <button
              type="button"
              className="btn btn-sm btn-outline btn-primary"
              disabled={!canRead || rehearsal.isLoading}
              onClick={() => options && void rehearse({ body: { ...placeOf(draft, kept), options } })}
            >
              {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse'}
            </button>
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={!canKeep}
              onClick={() => options && void keep({ ...draft, options }).then((done) => done && setChanged(false))}
            >
              {isKeeping ? 'Keeping …' : 'Keep'}
            </button>
          </>
        )
      }
    >
      {wrong && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(wrong)}
        </p>
      )}
      {kept && mayWrite && <Held watch={kept} />}
      <Where
        draft={draft}
        onChange={change}
        isLooking={looking.isLoading}
        onLook={() => void look(draft, rows)}
        isKnownLogin={kept?.login != null && kept.login.user === draft.login?.user}
      />
      {rehearsal.data && <Rehearsal answer={rehearsal.data} of={rows.of} />}
      {chosen && (
        <div className="mt-4">
          <RowsAre
            rows={rows}
            catalogue={catalogue}
            onChange={(next) => {
              setRows(next);
              read(next);
            }}
          />
          <Mapped
            chosen={chosen}
            catalogue={catalogue}
            hasMatch={findsWhom(chosen, forAll)}
            forAll={forAll}
            onForAll={(next) => {
              touched();
              setForAll(next);
            }}
            onRead={read}
            onMap={(mapping) => {
              touched();
              setChosen({ ...chosen, mapping });
            }}
          />
        </div>
      )}
      {rows.of === 'contact' && (chosen ?? kept) && <Gone draft={draft} forAll={forAll} catalogue={catalogue} onChange={change} />}
      {kept && mayWrite && <More watch={kept} draft={draft} onChange={change} />}
    </Page>
  );
}

const draftOf = ({ name, isOn, place, login, timetable, gone }: WatchView): Draft => ({
  ...{ name, isOn, place, timetable, gone },
  ...(login ? { login } : {}),
});
/** What is looked at: of a file that is watched already the password is known. */
const placeOf = ({ place, login }: Pick<Draft, 'place' | 'login'>, kept: WatchView | undefined) => ({
  place,
  ...(login ? { login } : {}),
  ...(kept ? { watch: kept.id } : {}),
});
const rowsOf = ({ options: { of, signalType } }: WatchView): Pick<Reading, 'of' | 'signalType'> => ({
  of,
  ...(signalType === undefined ? {} : { signalType }),
});
function forAllOf({ options }: WatchView): ForAll {
  const { matchBy, onExisting, emptyCells, addTags, fires, list, owner, consent, listSeparator } = options;
  return {
    ...{ matchBy, onExisting, emptyCells, addTags, fires },
    ...(list === undefined ? {} : { list }),
    ...(owner === undefined ? {} : { owner }),
    ...(consent === undefined ? {} : { consent }),
    ...(listSeparator === undefined ? {} : { listSeparator }),
  };
}

/** How the file begins. One that is watched already is looked at by itself, and read as it was said. */
function useHead(kept: WatchView | undefined, catalogue: Catalogue) {
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [ask, looking] = api.useLookAtPlaceMutation();
  const mayLook = useMay('settings:write', 'contacts:write');
  const look = async (draft: Pick<Draft, 'place' | 'login'>, rows: Pick<Reading, 'of' | 'signalType'>): Promise<void> => {
    const { data } = await ask({ body: placeOf(draft, kept) });
    if (!data) return;
    const head = Uint8Array.from(atob(data.head), (character) => character.charCodeAt(0));
    const found = chosenFrom(new File([head], data.name), head, rows, catalogue);
    setChosen(kept ? asKept(found, kept, catalogue) : found);
  };
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current || !kept || !mayLook) return;
    begun.current = true;
    void look(draftOf(kept), rowsOf(kept));
  });
  return { chosen, setChosen, look, looking };
}

/** The file as it is watched; a column that is new in it is left out until somebody says what it is. */
function asKept(found: Chosen, { options }: WatchView, catalogue: Catalogue): Chosen {
  const { of, signalType, format, separator, encoding, dates } = options;
  const read = readAs(found, { of, format, separator, encoding, dates, ...(signalType === undefined ? {} : { signalType }) }, catalogue);
  const mapping: Mapping = Object.fromEntries(Object.entries(options.mapping).map(([target, column]) => [column, target]));
  return { ...read, mapping };
}

function useKeeping(kept: WatchView | undefined) {
  const [make, making] = api.useMakeWatchMutation();
  const [change, changing] = api.useChangeWatchMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  /** Says whether it is kept. */
  const keep = async (body: z.input<typeof watchBodySchema>): Promise<boolean> => {
    if (kept) {
      const result = await change({ id: kept.id, body });
      if (!result.error) dispatch(told({ kind: 'done', text: `${body.name} is kept, and is read anew.` }));
      return !result.error;
    }
    const result = await make({ body });
    if (!result.data) return false;
    void navigate(`/intake/watched/${result.data.id}`, { replace: true, state: KEPT });
    return true;
  };
  return { keep, isKeeping: making.isLoading || changing.isLoading, error: making.error ?? changing.error };
}

/** When it was looked at, who is in it, and what became of the last reading. */
function State({ watch: { isOn, readAt, nextAt, people: n, options, error } }: { watch: WatchView }) {
  return (
    <>
      {!isOn && <strong className="text-error">off · </strong>}
      {readAt === null ? (
        'not looked at yet'
      ) : (
        <>
          looked at <When at={readAt} />
        </>
      )}
      {options.of === 'contact' && readAt !== null && ` · ${people(n)} in it`}
      {nextAt && (
        <>
          {' '}
          · next <When at={nextAt} />
        </>
      )}
      {error !== null && (
        <>
          {' '}
          · <strong className="text-error">{error}</strong>
        </>
      )}
    </>
  );
}

/** More are gone at once than can be believed: somebody has to say whether that is right. */
function Held({ watch: { id, held, heldNames, people: n, gone } }: { watch: WatchView }) {
  const [answer, { isLoading, error }] = api.useAnswerGoneMutation();
  if (held === 0) return null;
  const what = [
    ...(gone.takeOff ? ['lose the tags and the list of this file'] : []),
    ...(gone.tag === undefined ? [] : [`get the tag ${gone.tag}`]),
  ].join(' and ');
  return (
    <section className="panel mb-4 px-4 py-3" role="status" aria-label="Gone from the file">
      <p className="font-medium">
        Not found in the file any more: {count(held)} of {people(held + n)}. That is many at once, or a row of it cannot be read, so nobody
        has been touched yet.
      </p>
      {heldNames.length > 0 && (
        <p className="quiet mt-1 [overflow-wrap:anywhere]">
          {heldNames.join(', ')}
          {held > heldNames.length && ` and ${count(held - heldNames.length)} more`}
        </p>
      )}
      <p className="mt-2 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={isLoading}
          onClick={() => void answer({ id, body: { act: true } })}
        >
          That is right: they {what}
        </button>
        <button
          type="button"
          className="btn btn-sm btn-outline btn-primary"
          disabled={isLoading}
          onClick={() => void answer({ id, body: { act: false } })}
        >
          They stay as they are
        </button>
      </p>
      {error && (
        <p role="alert" className="text-error mt-2">
          {errorMessage(error)}
        </p>
      )}
    </section>
  );
}

function More({ watch, draft, onChange }: { watch: WatchView; draft: Draft; onChange: (next: Partial<Draft>) => void }) {
  const { id, last } = watch;
  const [readNow, reading] = api.useReadWatchMutation();
  const [remove, removing] = api.useRemoveWatchMutation();
  const navigate = useNavigate();
  return (
    <section className="mt-5">
      <h2 className="mb-1.5 text-[15px]">The last time that it had changed</h2>
      {last ? (
        <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span>
            <When at={last.startedAt} />: {count(last.created)} new, {count(last.updated)} brought up to date, {count(last.unchanged)} left
            as they were, {count(last.faulty)} refused
            {last.state === 'running' && ' so far'}
          </span>
          {last.faulty > 0 && (
            <a className="leads" download href={`/api/app/imports/${last.id}/faults`}>
              The refused rows
            </a>
          )}
          {last.state !== 'running' && <TakeBack what={{ import: last.id }} words="Take back what it did" />}
        </p>
      ) : (
        <p className="quiet">It has not been read yet.</p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Toggle label="It is looked at by its timetable" isOn={draft.isOn} onChange={(isOn) => onChange({ isOn })} />
        <button type="button" className="btn btn-xs" disabled={reading.isLoading || !watch.isOn} onClick={() => void readNow({ id })}>
          Look at it now
        </button>
        <AskFirst
          words="Remove"
          comes="What it brought stays; the file is not looked at any more."
          act="Remove it"
          busy={removing.isLoading}
          onAct={() => void remove({ id }).then((result) => !result.error && navigate('/intake', { state: KEPT }))}
        />
      </div>
      {(reading.error ?? removing.error) && (
        <p role="alert" className="text-error mt-2">
          {errorMessage(reading.error ?? removing.error)}
        </p>
      )}
    </section>
  );
}
