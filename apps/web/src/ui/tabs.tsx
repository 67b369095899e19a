import { type KeyboardEvent, type ReactNode } from 'react';

const MOVES: Readonly<Record<string, (at: number, of: number) => number>> = {
  ArrowRight: (at, of) => (at + 1) % of,
  ArrowLeft: (at, of) => (at + of - 1) % of,
  Home: () => 0,
  End: (_, of) => of - 1,
};

/** Views of one thing. The tab key comes to the one that is open; arrows, Home and End move among them. */
export function Tabs<Id extends string>({
  label,
  tabs,
  open,
  onOpen,
}: {
  label: string;
  tabs: readonly { readonly id: Id; readonly words: ReactNode }[];
  open: Id;
  onOpen: (id: Id) => void;
}) {
  const pressed = (event: KeyboardEvent<HTMLDivElement>): void => {
    const to = MOVES[event.key]?.(
      tabs.findIndex((tab) => tab.id === open),
      tabs.length,
    );
    const next = to === undefined ? undefined : tabs[to];
    if (to === undefined || !next) return;
    event.preventDefault();
    onOpen(next.id);
    event.currentTarget.querySelectorAll<HTMLElement>('[role="tab"]')[to]?.focus();
  };
  return (
    <div className="tabs tabs-border" role="tablist" aria-label={label} onKeyDown={pressed}>
      {tabs.map(({ id, words }) => (
        <button
          key={id}
          type="button"
          role="tab"
          aria-selected={id === open}
          tabIndex={id === open ? 0 : -1}
          className={`tab ${id === open ? 'tab-active font-semibold' : ''}`}
          onClick={() => onOpen(id)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
