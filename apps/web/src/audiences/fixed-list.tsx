import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage, statusOf } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { type Draft } from '../app/use-draft';
import { useMay, useMayCall, useSeesOwn } from '../app/use-may';
import { DialogButton } from '../ui/dialog-button';
import { PasteAddresses } from './paste-many';
import { TakeOff } from './take-off';
import { WhatItIs } from './what-it-is';
import { AudienceActions } from './audience-actions';
import { DefinitionPage } from '../ui/definition-page';
import { Labelled } from '../ui/labelled';
import { subjects } from '../ui/number';
import { PersonRows } from '../ui/person-rows';
import { keptTo } from '../ui/shelf';
import { Empty, Loading, Wrong } from '../ui/states';
import { Movements } from './audience-lists';
import { CompaniesOnList } from './companies-on-list';

/** A list that people or companies are put on and taken off by hand, by an import or by a rule. */
export function FixedList({ draft }: { draft: Draft<'audience'> }) {
  const { itemKey, name, isNew, catalogue } = draft;
  const { team, of } = draft.body;
  const seesOwn = useSeesOwn();
  const view = api.useAudienceQuery({ key: itemKey }, { skip: isNew });
  return (
    <DefinitionPage
      draft={draft}
      thing="list"
      beside={
        view.data && (
          <em className="text-primary not-italic" data-count>
            {subjects(of, view.data.members)}
          </em>
        )
      }
      sentence={`${of === 'company' ? 'A fixed list of companies: what' : 'A fixed list: who'} is on it is put there by hand, by an import or by a rule.${team === undefined ? '' : ` It is ${keptTo(team)}.`}${seesOwn ? ' You see your own contacts on it.' : ''}`}
      {...(isNew && { meta: <WhatItIs draft={draft} /> })}
      also={!isNew && <AudienceActions of={of} itemKey={itemKey} name={name} catalogue={catalogue} />}
      kept={`The list ${name} is there.`}
    >
      {isNew ? (
        <Empty title="A list begins empty">Give it a name and keep it; then put {of === 'company' ? 'companies' : 'people'} on it.</Empty>
      ) : of === 'company' ? (
        <CompaniesOnList draft={draft} />
      ) : (
        <OnTheList draft={draft} />
      )}
    </DefinitionPage>
  );
}

/** Puts people on the list and takes them off it, by their address, and says how that went. */
function useList({ itemKey, saved }: Draft<'audience'>) {
  const [put, { isLoading }] = api.usePutContactsMutation();
  const [lookUp, { isFetching }] = api.useLazyContactQuery();
  /** an address by which nobody is known: perhaps it is mistyped */
  const [stranger, setStranger] = useState<string | null>(null);
  const dispatch = useAppDispatch();
  const set = async (address: string, on: boolean): Promise<boolean> => {
    const result = await put({ body: { contacts: [{ email: address, lists: { [itemKey]: on } }] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (result.error || fault) {
      dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `${address}: needs ${fault?.expected ?? ''}` }));
      return false;
    }
    dispatch(told({ kind: 'done', text: `${address} is ${on ? 'on' : 'off'} ${saved.name}.`, undo: () => set(address, !on) }));
    setStranger(null);
    return true;
  };
  const putOn = async (address: string): Promise<boolean> => {
    const found = await lookUp({ id: address });
    if (!found.error) return set(address, true);
    if (statusOf(found.error) === 404) setStranger(address);
    else dispatch(told({ kind: 'wrong', text: errorMessage(found.error) }));
    return false;
  };
  return { set, putOn, stranger, setStranger, isLoading: isLoading || isFetching };
}
type List = ReturnType<typeof useList>;

function OnTheList({ draft }: { draft: Draft<'audience'> }) {
  const mayPut = useMay('contacts:write') && !draft.retired;
  const mayPaste = useMayCall('findAddresses');
  const [moves, setMoves] = useState(false);
  const list = useList(draft);
  return (
    <>
      <div className="mb-2 flex flex-wrap items-end justify-between gap-3">
        {mayPut && (
          <div className="flex flex-wrap items-end gap-2">
            <PutOn list={list} />
            {mayPaste && (
              <DialogButton words="Paste many …" title={`Put many on ${draft.saved.name}`}>
                {(close) => <PasteAddresses itemKey={draft.itemKey} name={draft.saved.name} onClose={close} />}
              </DialogButton>
            )}
          </div>
        )}
        <button type="button" className="btn btn-xs" aria-pressed={moves} onClick={() => setMoves(!moves)}>
          {moves ? 'Who is on it' : 'Who moved'}
        </button>
      </div>
      {moves ? <Movements audienceKey={draft.itemKey} of="contact" /> : <ListMembers draft={draft} list={list} mayPut={mayPut} />}
    </>
  );
}

function PutOn({ list }: { list: List }) {
  const [email, setEmail] = useState('');
  const { stranger, setStranger, isLoading } = list;
  const seesOwn = useSeesOwn();
  const clearIf = (done: boolean): void => {
    if (done) setEmail('');
  };
  return (
    <div>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void list.putOn(email.trim()).then(clearIf);
        }}
      >
        <Labelled label="Put on the list, by email address">
          <input
            className="input input-sm w-72"
            type="email"
            required
            value={email}
            onChange={(event) => {
              setEmail(event.target.value);
              setStranger(null);
            }}
          />
        </Labelled>
        <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading}>
          Put on
        </button>
      </form>
      {stranger !== null && (
        <div role="alert" className="panel border-error mt-2 flex flex-wrap items-center gap-3 px-3.5 py-2">
          <span>
            {seesOwn ? 'None of your contacts' : 'Nobody here'} has the address <b>{stranger}</b>. Is it mistyped?
          </span>
          {!seesOwn && (
            <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void list.set(stranger, true).then(clearIf)}>
              Add them as a new contact
            </button>
          )}
          <button type="button" className="btn btn-xs" onClick={() => setStranger(null)}>
            Look at it again
          </button>
        </div>
      )}
    </div>
  );
}

function ListMembers({ draft, list, mayPut }: { draft: Draft<'audience'>; list: List; mayPut: boolean }) {
  const members = api.useMembersInfiniteQuery({ key: draft.itemKey });
  const rows = members.data?.pages.flatMap((page) => page.contacts) ?? [];
  const seesOwn = useSeesOwn();
  if (members.error) return <Wrong error={members.error} again={() => void members.refetch()} />;
  if (!members.data) return <Loading />;
  if (rows.length === 0) return <Empty title={seesOwn ? 'None of your contacts is on this list yet' : 'Nobody is on this list yet'} />;
  return (
    <PersonRows
      label="Who is on the list"
      rows={rows}
      catalogue={draft.catalogue}
      more={members.hasNextPage && !members.isFetching ? () => void members.fetchNextPage() : undefined}
      last={{
        title: '',
        cell: (row) =>
          mayPut && (
            <TakeOff
              name={row.name}
              disabled={list.isLoading || !row.email}
              onTakeOff={() => row.email && void list.set(row.email, false)}
            />
          ),
      }}
    />
  );
}
