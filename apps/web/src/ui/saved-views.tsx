import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { Dialog } from './dialog';
import { DialogEnd } from './dialog-button';
import { Labelled } from './labelled';
import { Menu, MenuItem } from './menu';

type Place = 'ledger' | 'people' | 'companies';

/** Who sees a view that is kept for all. */
const EVERYBODY: Readonly<Record<Place, string>> = {
  ledger: 'for everybody who may see the ledger',
  people: 'for everybody who may see contacts',
  companies: 'for everybody who may see companies',
};

interface SavedViewsProps {
  /** of which list */
  readonly place: Place;
  /** what it is narrowed to, as it stands in the address; empty where it is not */
  readonly query: string;
  readonly onOpen: (query: string) => void;
}

/** Views of a list that are kept under names: opened, kept and forgotten. */
export function SavedViews({ place, query, onOpen }: SavedViewsProps) {
  const { data } = api.useSavedViewsQuery({ place });
  const { data: session } = api.useSessionQuery();
  const mayForgetAny = useMay('settings:write');
  const [isKeeping, setIsKeeping] = useState(false);
  const [remove] = api.useRemoveViewMutation();
  const dispatch = useAppDispatch();
  const views = data?.views ?? [];
  const open = views.find((view) => sameQuery(view.query, query));
  const mayForget = open !== undefined && (mayForgetAny || open.by === session?.person.email);
  const forget = async (): Promise<void> => {
    if (!open) return;
    const { error } = await remove({ id: open.id });
    dispatch(told(error ? { kind: 'wrong', text: errorMessage(error) } : { kind: 'done', text: `The view ${open.name} is forgotten.` }));
  };
  if (views.length === 0 && query === '') return null;
  return (
    <>
      <Menu label="Views" words={open ? `View: ${open.name}` : 'Views'}>
        {views.map((view) => (
          <MenuItem key={view.id} onClick={() => onOpen(view.query)}>
            {view.name}
            {view.by !== session?.person.email && <span className="quiet ml-1.5 text-[12px]">by {view.by}</span>}
          </MenuItem>
        ))}
        {query !== '' && !open && <MenuItem onClick={() => setIsKeeping(true)}>Keep this view …</MenuItem>}
        {mayForget && <MenuItem onClick={() => void forget()}>Forget this view</MenuItem>}
      </Menu>
      {isKeeping && <KeepView place={place} query={query} onClose={() => setIsKeeping(false)} />}
    </>
  );
}

function KeepView({ place, query, onClose }: Pick<SavedViewsProps, 'place' | 'query'> & { readonly onClose: () => void }) {
  const [name, setName] = useState('');
  const [forAll, setForAll] = useState(false);
  const [save, { isLoading, error }] = api.useSaveViewMutation();
  const keep = async (): Promise<void> => {
    const result = await save({ body: { place, name: name.trim(), query, forAll } });
    if (!result.error) onClose();
  };
  return (
    <Dialog open title="Keep this view" onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Labelled label="Name">
          <input
            className="input input-sm w-full"
            required
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={forAll}
            onChange={(event) => setForAll(event.target.checked)}
          />
          {EVERYBODY[place]}
        </label>
        <DialogEnd error={error} act="Keep" disabled={isLoading || name.trim() === ''} onClose={onClose} />
      </form>
    </Dialog>
  );
}

/** Whether two addresses narrow to the same, in whatever order they say it. */
function sameQuery(a: string, b: string): boolean {
  const [first, second] = [new URLSearchParams(a), new URLSearchParams(b)];
  first.sort();
  second.sort();
  return first.toString() === second.toString();
}
