import { type TableOf } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { Menu } from '../../ui/menu';
import { OfferCall } from '../../ui/offer';
import { SavedViews } from '../../ui/saved-views';

interface PeopleActionsProps {
  readonly of: TableOf;
  readonly search: string;
  readonly onSearch: (text: string) => void;
  readonly isNarrowing: boolean;
  readonly onNarrow: () => void;
  readonly onColumns: () => void;
  /** the view that is open, as it stands in the address */
  readonly query: string;
  readonly onOpen: (query: string) => void;
  /** what the table shows, as it is asked for */
  readonly table: object;
  /** what is done first of all */
  readonly children: ReactNode;
}

/** What is done with a table of people or companies as a whole. */
export function PeopleActions({
  of,
  search,
  onSearch,
  isNarrowing,
  onNarrow,
  onColumns,
  query,
  onOpen,
  table,
  children,
}: PeopleActionsProps) {
  return (
    <>
      <input
        className="input input-sm w-44"
        type="search"
        aria-label="Search in this table"
        placeholder={of === 'company' ? 'name or outside id' : 'name or address'}
        value={search}
        onChange={(event) => onSearch(event.target.value)}
      />
      <button type="button" className="btn btn-sm btn-outline btn-primary" aria-expanded={isNarrowing} onClick={onNarrow}>
        {isNarrowing ? 'Hide the lines' : 'Narrow down'}
      </button>
      <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onColumns}>
        Columns …
      </button>
      <OfferCall to="savedViews">
        <SavedViews place={of === 'company' ? 'companies' : 'people'} query={query} onOpen={onOpen} />
      </OfferCall>
      <OfferCall to="peopleFile">
        <TakeAlong of={of} table={table} />
      </OfferCall>
      {children}
    </>
  );
}

const FILES = [
  ['csv', 'As CSV'],
  ['ndjson', 'As NDJSON'],
  ['vcard', 'As vCards'],
] as const;

/** @param table what the table shows, as it is asked for */
function TakeAlong({ of, table }: { of: TableOf; table: object }) {
  return (
    <Menu label={`Take these ${of === 'company' ? 'companies' : 'people'} along as a file`} words="Take along">
      {FILES.map(([format, words]) => (
        <li key={format}>
          <a download href={`/api/app/contacts/file?${new URLSearchParams({ table: JSON.stringify(table), format }).toString()}`}>
            {words}
          </a>
        </li>
      ))}
    </Menu>
  );
}
