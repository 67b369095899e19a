import { columnId, columnWords, type Catalogue, type Column } from '@eager-sieve/core';
import { type Cell, type WorklistEntry } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { CellView } from '../contacts/table/cell';
import { isSameCell } from '../contacts/table/same-cell';
import { AskFirst } from '../ui/ask-first';
import { OfferCall } from '../ui/offer';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Progress } from './worklists';

const STATES = [
  ['', 'Everybody'],
  ['waiting', 'Waiting'],
  ['later', 'Put off'],
  ['done', 'Done'],
] as const;

/** Where one of a list is worked: on their page, with the list in hand. */
export const entryAddress = (list: number, { contact, place }: Pick<WorklistEntry, 'contact' | 'place'>): string =>
  `/people/${contact}?worklist=${list}&place=${place}`;

/** A list that is worked down: who is on it, how far it is, and what changed since it was frozen. */
export default function WorklistPage() {
  const id = Number(useParams()['id']);
  const catalogue = useCatalogue();
  const mayWork = useMay('contacts:write');
  const [state, setState] = useState<(typeof STATES)[number][0]>('');
  const list = api.useWorklistInfiniteQuery({ id, ...(state === '' ? {} : { state }) });
  const [next, { isLoading }] = api.useNextEntryMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  const worklist = list.data?.pages.at(-1)?.worklist;
  if (!worklist || !catalogue) return <Loading />;
  const entries = list.data?.pages.flatMap((page) => page.entries) ?? [];
  const goOn = async (): Promise<void> => {
    const { data, error } = await next({ id, body: {} });
    if (error) dispatch(told({ kind: 'wrong', text: errorMessage(error) }));
    else if (data?.entry) await navigate(entryAddress(id, data.entry));
    else dispatch(told({ kind: 'done', text: 'Everybody on this list is done, or somebody else has them before them.' }));
  };
  return (
    <Page
      title={worklist.name}
      meta={
        <>
          frozen by {worklist.by}, <When at={worklist.at} />
          {worklist.forAll && ' · shared in turns by everybody who may see contacts'}
        </>
      }
      sentence={<Progress list={worklist} />}
      actions={
        mayWork && (
          <>
            <Remove id={id} name={worklist.name} by={worklist.by} />
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={isLoading || worklist.done === worklist.total}
              onClick={() => void goOn()}
            >
              {worklist.done === 0 ? 'Begin' : 'Go on'}
            </button>
          </>
        )
      }
    >
      <div className="mb-2 flex gap-1.5" role="group" aria-label="Who is shown">
        {STATES.map(([key, words]) => (
          <button key={key} type="button" className="btn btn-xs" aria-pressed={state === key} onClick={() => setState(key)}>
            {words}
          </button>
        ))}
        <OfferCall to="worklistFile">
          <a className="leads ml-2" download href={`/api/app/worklists/${id}/file?format=csv`}>
            As CSV
          </a>
          <a className="leads ml-1" download href={`/api/app/worklists/${id}/file?format=ndjson`}>
            As NDJSON
          </a>
        </OfferCall>
      </div>
      {entries.length === 0 ? (
        <Empty title="Nobody here" />
      ) : (
        <Entries entries={entries} columns={worklist.columns} catalogue={catalogue} list={id} />
      )}
      {list.hasNextPage && (
        <button type="button" className="btn btn-xs mt-3 self-start" disabled={list.isFetching} onClick={() => void list.fetchNextPage()}>
          Show more
        </button>
      )}
    </Page>
  );
}

function Remove({ id, name, by }: { id: number; name: string; by: string }) {
  const { data: session } = api.useSessionQuery();
  const mayAny = useMay('settings:write');
  const [remove] = api.useRemoveWorklistMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  if (session?.person.email !== by && !mayAny) return null;
  const go = async (): Promise<void> => {
    const { error } = await remove({ id });
    if (error) dispatch(told({ kind: 'wrong', text: errorMessage(error) }));
    else await navigate('/people/worklists');
  };
  return (
    <AskFirst
      words="Throw away"
      label={`Throw ${name} away`}
      comes="Who is on it and what was said of them here is gone then; the contacts stay."
      act="Throw it away"
      onAct={() => void go()}
    />
  );
}

interface EntriesProps {
  readonly entries: readonly WorklistEntry[];
  readonly columns: readonly Column[];
  readonly catalogue: Catalogue;
  readonly list: number;
}

const STATE_WORDS = { waiting: 'waiting', done: 'done', later: 'put off' } as const;

function Entries({ entries, columns, catalogue, list }: EntriesProps) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Who is on it">
      <table className="table">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="pr-2.5">#</th>
            <th className="pr-2.5">Contact</th>
            <th className="pr-2.5">How it stands</th>
            {columns.map((column) => (
              <th key={columnId(column)} className="pr-2.5">
                {columnWords(column, catalogue)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) => (
            <tr key={entry.place} className="border-base-300/60 h-9 border-b">
              <td className="quiet pr-2.5">{entry.place + 1}</td>
              <td className="pr-2.5 whitespace-nowrap">
                <Link className="font-semibold hover:underline" to={entryAddress(list, entry)} title={entry.email ?? undefined}>
                  {entry.name}
                </Link>
              </td>
              <td className="pr-2.5">
                <HowItStands entry={entry} />
              </td>
              {columns.map((column, at) => (
                <td key={columnId(column)} className="pr-2.5 whitespace-nowrap">
                  <Since was={entry.was[at] ?? null} now={entry.cells[at] ?? null} column={column} catalogue={catalogue} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function HowItStands({ entry: { state, by, at, note, takenBy } }: { entry: WorklistEntry }) {
  if (takenBy !== null && state !== 'done') return <span className="quiet">{takenBy} has them before them</span>;
  return (
    <>
      <span className={state === 'done' ? 'text-success font-medium' : ''}>{STATE_WORDS[state]}</span>
      {at && (
        <span className="quiet">
          {' '}
          · {by}, <When at={at} />
        </span>
      )}
      {note && <span className="block max-w-80 truncate text-[12.5px]">{note}</span>}
    </>
  );
}

/** What a column says now; where it said something else when the list was frozen, that stands before it. */
export function Since({ was, now, column, catalogue }: { was: Cell; now: Cell; column: Column; catalogue: Catalogue }) {
  return (
    <>
      {!isSameCell(was, now) && (
        <>
          <s className="quiet decoration-1">
            <span className="sr-only">was </span>
            <CellView cell={was} column={column} catalogue={catalogue} />
          </s>{' '}
          <span aria-hidden>→ </span>
        </>
      )}
      <CellView cell={now} column={column} catalogue={catalogue} />
    </>
  );
}
