import { Command } from 'cmdk';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../app/api';
import { Dialog } from '../ui/dialog';

/** Search over contacts and definitions. */
export function Search({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [text, setText] = useState('');
  const navigate = useNavigate();
  const { data = [], isFetching } = api.useSearchQuery({ q: text }, { skip: text.trim().length < 1 });
  const close = (): void => {
    setText('');
    onClose();
  };
  return (
    <Dialog open={open} title="Search" onClose={close}>
      <Command shouldFilter={false} label="Search">
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="a name, an address, a tag, an audience …"
          className="input input-sm w-full"
        />
        <Command.List className="mt-2 max-h-96 overflow-y-auto">
          {text.trim() !== '' && !isFetching && <Command.Empty className="quiet p-3">Nothing goes by that name.</Command.Empty>}
          {data.map((hit) => (
            <Command.Item
              key={`${hit.kind} ${hit.key}`}
              value={`${hit.kind} ${hit.key}`}
              className="data-[selected=true]:bg-base-200 flex cursor-pointer items-baseline gap-2 rounded px-2 py-1.5"
              onSelect={() => {
                close();
                void navigate(hit.link);
              }}
            >
              <span className="quiet w-20 flex-none text-[12px]">{hit.kind}</span>
              <span className="font-medium">{hit.name}</span>
              <span className="quiet truncate text-[12px]">{hit.detail}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Dialog>
  );
}
