import { useState } from 'react';
import { api } from '../app/api';
import { type Draft } from '../app/use-draft';
import { useMay, useMayCall } from '../app/use-may';
import { useCompanyWrite } from '../companies/use-company-write';
import { CompanyRows } from '../ui/company-rows';
import { DialogButton } from '../ui/dialog-button';
import { FindCompany } from '../ui/find-company';
import { Empty, Loading, Wrong } from '../ui/states';
import { Movements } from './audience-lists';
import { PasteCompanies } from './paste-many';
import { TakeOff } from './take-off';

/** Which companies are on a fixed list, with the ways to put more on it and to take them off. */
export function CompaniesOnList({ draft }: { draft: Draft<'audience'> }) {
  const { itemKey, saved } = draft;
  const mayPut = useMay('contacts:write') && !draft.retired;
  const mayPaste = useMayCall('findCompanies');
  const [moves, setMoves] = useState(false);
  return (
    <>
      <div className="mb-2 flex flex-wrap items-end justify-between gap-3">
        {mayPut && (
          <div className="flex flex-wrap items-end gap-2">
            <DialogButton words="Put a company on …" title={`Put a company on ${saved.name}`}>
              {(close) => <PutOn draft={draft} onClose={close} />}
            </DialogButton>
            {mayPaste && (
              <DialogButton words="Paste many …" title={`Put many on ${saved.name}`}>
                {(close) => <PasteCompanies itemKey={itemKey} name={saved.name} onClose={close} />}
              </DialogButton>
            )}
          </div>
        )}
        <button type="button" className="btn btn-xs" aria-pressed={moves} onClick={() => setMoves(!moves)}>
          {moves ? 'What is on it' : 'What moved'}
        </button>
      </div>
      {moves ? <Movements audienceKey={itemKey} of="company" /> : <OnIt draft={draft} mayPut={mayPut} />}
    </>
  );
}

function useList({ itemKey, saved }: Draft<'audience'>) {
  const [write, isWriting] = useCompanyWrite();
  const set = ({ outsideId, name }: { readonly outsideId: string; readonly name: string }, on: boolean): Promise<boolean> =>
    write(
      { outsideId, lists: { [itemKey]: on } },
      { text: `${name} is ${on ? 'on' : 'off'} ${saved.name}.`, undo: () => set({ outsideId, name }, !on) },
    );
  return { set, isWriting };
}

/** Stays open: one company after the other is put on. */
function PutOn({ draft, onClose }: { draft: Draft<'audience'>; onClose: () => void }) {
  const { set } = useList(draft);
  const members = api.useMembersInfiniteQuery({ key: draft.itemKey });
  const isOn = new Set(members.data?.pages.flatMap((page) => page.companies ?? []).map(({ id }) => id));
  return (
    <FindCompany
      act={['Put on', 'Put on the list:']}
      not={(company) => (isOn.has(company.id) ? 'is on it now' : undefined)}
      onPick={(company) => void set(company, true)}
      below={() => (
        <button type="button" className="btn btn-sm btn-outline btn-primary mt-4" onClick={onClose}>
          Done
        </button>
      )}
    />
  );
}

function OnIt({ draft, mayPut }: { draft: Draft<'audience'>; mayPut: boolean }) {
  const { set, isWriting } = useList(draft);
  const members = api.useMembersInfiniteQuery({ key: draft.itemKey });
  if (members.error) return <Wrong error={members.error} again={() => void members.refetch()} />;
  if (!members.data) return <Loading />;
  const rows = members.data.pages.flatMap((page) => page.companies ?? []);
  if (rows.length === 0) return <Empty title="No company is on this list yet" />;
  return (
    <CompanyRows
      label="What is on the list"
      rows={rows}
      catalogue={draft.catalogue}
      more={members.hasNextPage && !members.isFetching ? () => void members.fetchNextPage() : undefined}
      last={{
        title: '',
        cell: (row) => mayPut && <TakeOff name={row.name} disabled={isWriting} onTakeOff={() => void set(row, false)} />,
      }}
    />
  );
}
