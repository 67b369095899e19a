import { type AudienceBody, type Catalogue } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { statusOf, errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useDraft } from '../app/use-draft';
import { DefinitionMenu } from '../ui/definition-menu';
import { people } from '../ui/number';
import { NameInput } from '../ui/name-input';
import { Page } from '../ui/page';
import { useMay } from '../app/use-may';
import { PersonRows } from '../ui/person-rows';
import { RetiredNote } from '../ui/retired';
import { Empty, Loading, Wrong } from '../ui/states';
import { Movements } from './audience-lists';
import { Labelled } from '../ui/labelled';

/** What the page of an audience is given: what is kept of it. */
export interface AudienceProps {
  readonly audienceKey: string;
  readonly name: string;
  readonly saved: AudienceBody;
  readonly catalogue: Catalogue;
}

/** A list that people are put on and taken off by hand, by an import or by a rule. */
export function FixedList({ audienceKey, name: savedName, saved, catalogue }: AudienceProps) {
  const draft = useDraft({
    kind: 'audience',
    itemKey: audienceKey,
    saved: { name: savedName, body: saved },
    catalogue,
    address: '/audiences',
  });
  const { name, isNew, changed, saving } = draft;
  const view = api.useAudienceQuery({ key: audienceKey }, { skip: isNew });
  const members = api.useMembersInfiniteQuery({ key: audienceKey }, { skip: isNew });
  const retired = catalogue.find('audience', audienceKey)?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const whole = { kind: 'audience' as const, itemKey: audienceKey, catalogue, written: draft.writtenSaved };
  const mayPut = useMay('contacts:write') && !retired;
  const [moves, setMoves] = useState(false);
  const [email, setEmail] = useState('');
  const [put, { isLoading }] = api.usePutContactsMutation();
  const dispatch = useAppDispatch();
  const [lookUp, { isFetching: looking }] = api.useLazyContactQuery();
  /** an address by which nobody is known: perhaps it is mistyped */
  const [stranger, setStranger] = useState<string | null>(null);
  const putOn = async (address: string): Promise<void> => {
    const found = await lookUp({ id: address });
    if (found.error && statusOf(found.error) === 404) setStranger(address);
    else if (found.error) dispatch(told({ kind: 'wrong', text: errorMessage(found.error) }));
    else await set(address, true);
  };
  const set = async (address: string, on: boolean): Promise<void> => {
    const result = await put({ body: { contacts: [{ email: address, lists: { [audienceKey]: on } }] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (result.error || fault)
      dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `${address}: needs ${fault?.expected ?? ''}` }));
    else {
      dispatch(told({ kind: 'done', text: on ? `${address} is on ${savedName}.` : `${address} is off ${savedName}.` }));
      setEmail('');
      setStranger(null);
    }
  };
  const rows = members.data?.pages.flatMap((page) => page.contacts) ?? [];
  return (
    <Page
      title={
        <span className="flex flex-wrap items-baseline gap-x-2">
          <NameInput thing="list" value={name} readOnly={!mayWrite} onChange={draft.setName} fitted />
          {view.data && (
            <em className="text-primary not-italic" data-count>
              {people(view.data.members)}
            </em>
          )}
        </span>
      }
      sentence="A fixed list: who is on it is put there by hand, by an import or by a rule."
      actions={
        <>
          {!isNew && <DefinitionMenu {...whole} restore={draft.restore} />}
          {mayWrite && (
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={saving || name.trim() === '' || !changed}
              onClick={() => void draft.keep(`The list ${name} is there.`)}
            >
              {isNew ? 'Keep list' : 'Keep changes'}
            </button>
          )}
        </>
      }
    >
      <RetiredNote {...whole} />
      {isNew ? (
        <Empty title="A list begins empty">Give it a name and keep it; then put people on it.</Empty>
      ) : (
        <>
          <div className="mb-2 flex flex-wrap items-end justify-between gap-3">
            {mayPut && (
              <form
                className="flex items-end gap-2"
                onSubmit={(event) => {
                  event.preventDefault();
                  void putOn(email.trim());
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
                <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading || looking}>
                  Put on
                </button>
              </form>
            )}
            <button type="button" className="btn btn-xs" aria-pressed={moves} onClick={() => setMoves(!moves)}>
              {moves ? 'Who is on it' : 'Who moved'}
            </button>
          </div>
          {stranger !== null && (
            <div role="alert" className="panel border-error mb-2 flex flex-wrap items-center gap-3 px-3.5 py-2">
              <span>
                Nobody here has the address <b>{stranger}</b>. Is it mistyped?
              </span>
              <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void set(stranger, true)}>
                Add them as a new contact
              </button>
              <button type="button" className="btn btn-xs" onClick={() => setStranger(null)}>
                Look at it again
              </button>
            </div>
          )}
          {moves ? (
            <Movements audienceKey={audienceKey} of="contact" />
          ) : members.error ? (
            <Wrong error={members.error} again={() => void members.refetch()} />
          ) : !members.data ? (
            <Loading />
          ) : rows.length === 0 ? (
            <Empty title="Nobody is on this list yet" />
          ) : (
            <PersonRows
              label="Who is on the list"
              rows={rows}
              catalogue={catalogue}
              more={members.hasNextPage && !members.isFetching ? () => void members.fetchNextPage() : undefined}
              last={{
                title: '',
                cell: (row) =>
                  mayPut && (
                    <button
                      type="button"
                      className="quiet cursor-pointer hover:underline"
                      disabled={isLoading || !row.email}
                      onClick={() => row.email && void set(row.email, false)}
                    >
                      take off
                    </button>
                  ),
              }}
            />
          )}
        </>
      )}
    </Page>
  );
}
