import { type ComponentProps } from 'react';
import { type Catalogue } from '@eager-sieve/core';
import { type importOptionsSchema } from '@eager-sieve/contracts';
import { type z } from 'zod';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';
import { Tag } from '../ui/tag';
import { assigned, newField, targets, type Mapping, type Preview, type Reading } from './import-columns';

type Options = z.input<typeof importOptionsSchema>;
/** What goes for all rows of a file. */
export type ForAll = Required<Pick<Options, 'matchBy' | 'onExisting' | 'emptyCells' | 'addTags' | 'fires'>> &
  Pick<Options, 'list' | 'owner' | 'consent' | 'listSeparator'>;

export const STANDARD: ForAll = { matchBy: 'email', onExisting: 'update', emptyCells: 'keep', addTags: [], fires: false };

/** A choice under its name. */
const Asked = (choice: ComponentProps<typeof Choice>) => (
  <Labelled label={choice.label}>
    <Choice {...choice} />
  </Labelled>
);

/** How a file is read, as it was guessed. */
export function ReadingChoices({ reading, onChange }: { reading: Reading; onChange: (reading: Partial<Reading>) => void }) {
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
      <Asked
        label="Format"
        value={reading.format}
        choices={[
          ['csv', 'a table, CSV'],
          ['ndjson', 'JSON lines'],
          ['vcard', 'vCards'],
        ]}
        onPick={(format) => onChange({ format: format as Reading['format'] })}
      />
      {reading.format === 'csv' && (
        <Asked
          label="Between the cells"
          value={reading.separator}
          choices={[
            [',', 'a comma'],
            [';', 'a semicolon'],
            ['\t', 'a tab'],
          ]}
          onPick={(separator) => onChange({ separator: separator as Reading['separator'] })}
        />
      )}
      <Asked
        label="Encoding"
        value={reading.encoding}
        choices={[
          ['utf-8', 'UTF-8'],
          ['windows-1252', 'Western, Windows'],
          ['utf-16le', 'UTF-16'],
        ]}
        onPick={(encoding) => onChange({ encoding: encoding as Reading['encoding'] })}
      />
      <Asked
        label="Days are written"
        value={reading.dates}
        choices={[
          ['year first', 'year first, 1990-12-24'],
          ['day first', 'day first, 24.12.1990'],
          ['month first', 'month first, 12/24/1990'],
        ]}
        onPick={(dates) => onChange({ dates: dates as Reading['dates'] })}
      />
    </div>
  );
}

interface ColumnsProps {
  readonly chosen: Preview;
  readonly mapping: Mapping;
  readonly catalogue: Catalogue;
  readonly reading: Pick<Reading, 'of' | 'signalType'>;
  /** what the columns are, where they are not those of a table: then no field is made of one */
  readonly of?: string;
  readonly onChange: (mapping: Mapping) => void;
}

/** What each column of the file is, with some of what is in it. */
export function Columns({ chosen, mapping, catalogue, reading, of, onChange }: ColumnsProps) {
  const mayMake = useMay('definitions:write') && reading.of !== 'signal' && of === undefined;
  const known = targets(catalogue, reading);
  return (
    <table className="table panel w-full">
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="px-3 py-1.5">{of ?? 'Column'}</th>
          <th>goes to</th>
          <th className="px-3">for example</th>
        </tr>
      </thead>
      <tbody>
        {chosen.columns.map((column) => (
          <tr key={column} className="border-base-300/60 border-t">
            <td className="min-w-44 px-3 py-1 font-medium [overflow-wrap:anywhere]">{column}</td>
            <td>
              <select
                className="select select-sm w-auto max-w-64 overflow-hidden"
                aria-label={`${of ?? 'Column'} ${column} goes to`}
                value={mapping[column] ?? ''}
                onChange={(event) => onChange(assigned(mapping, column, event.target.value))}
              >
                <option value="">leave out</option>
                {mayMake && <option value={newField(column)}>a new field: {column}</option>}
                {known.map(([key, name]) => (
                  <option key={key} value={key}>
                    {name}
                  </option>
                ))}
              </select>
            </td>
            <td className="quiet px-3 [overflow-wrap:anywhere]">
              {chosen.rows
                .map((row) => row[column])
                .filter(Boolean)
                .slice(0, 3)
                .join(' · ')
                .slice(0, 120)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface ForAllRowsProps {
  readonly of: Reading['of'];
  readonly forAll: ForAll;
  readonly catalogue: Catalogue;
  readonly onChange: (forAll: ForAll) => void;
}

/** By what rows find whom they are about, what happens to those who are here, and what all of them get. */
export function ForAllRows({ of, forAll, catalogue, onChange }: ForAllRowsProps) {
  const { list, owner, consent, listSeparator, ...others } = forAll;
  const kept = {
    ...(list ? { list } : {}),
    ...(owner ? { owner } : {}),
    ...(consent ? { consent } : {}),
    ...(listSeparator ? { listSeparator } : {}),
  };
  /** Puts one of the properties that may be left out. */
  const put = (name: keyof typeof kept, value: string): void => {
    const { [name]: _before, ...rest } = kept;
    onChange({ ...others, ...rest, ...(value === '' ? {} : { [name]: value }) });
  };
  const found = FOUND_BY[of];
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
      {found.length > 0 && (
        <Asked
          label={of === 'signal' ? 'A row finds whom it is about by' : 'A row finds its contact by'}
          value={forAll.matchBy}
          choices={found}
          onPick={(matchBy) => onChange({ ...forAll, matchBy: matchBy as ForAll['matchBy'] })}
        />
      )}
      {of === 'signal' ? (
        <Asked
          label="Rules that follow such signals"
          value={forAll.fires ? 'fire' : 'rest'}
          choices={[
            ['rest', 'rest: this is the past'],
            ['fire', 'fire, as if it came in now'],
          ]}
          onPick={(fires) => onChange({ ...forAll, fires: fires === 'fire' })}
        />
      ) : (
        <Kept of={of} forAll={forAll} onChange={onChange} />
      )}
      <Asked
        label="Between several values in a cell"
        value={listSeparator ?? ''}
        choices={[
          ['', '; or |'],
          [',', 'a comma'],
          ['/', 'a slash'],
        ]}
        onPick={(separator) => put('listSeparator', separator)}
      />
      {(of === 'contact' || of === 'company') && (
        <Asked
          label="They are put on the list"
          value={forAll.list ?? ''}
          choices={[['', 'no list'], ...catalogue.lists(of).map(({ key, name }): [string, string] => [key, name])]}
          onPick={(list) => put('list', list)}
        />
      )}
      {of === 'contact' && <AlsoGiven forAll={forAll} catalogue={catalogue} onChange={onChange} put={put} />}
    </div>
  );
}

/** By what a row can find its contact. */
const FOUND_BY: Readonly<Record<Reading['of'], readonly (readonly [string, string])[]>> = {
  contact: [
    ['email', 'email address'],
    ['outsideId', 'outside id'],
    ['phone', 'phone number'],
  ],
  signal: [
    ['email', 'email address'],
    ['outsideId', 'outside id'],
  ],
  company: [],
  deal: [],
};

/** What happens to those who are here already, and what an empty cell means. */
function Kept({ of, forAll, onChange }: Pick<ForAllRowsProps, 'forAll' | 'onChange'> & { of: 'contact' | 'company' | 'deal' }) {
  return (
    <>
      <Asked
        label={`${HERE[of]} that are here already`}
        value={forAll.onExisting}
        choices={[
          ['update', 'are brought up to date'],
          ['skip', 'stay as they are'],
        ]}
        onPick={(onExisting) => onChange({ ...forAll, onExisting: onExisting as ForAll['onExisting'] })}
      />
      <Asked
        label="An empty cell"
        value={forAll.emptyCells}
        choices={[
          ['keep', 'changes nothing'],
          ['clear', 'clears its field'],
        ]}
        onPick={(emptyCells) => onChange({ ...forAll, emptyCells: emptyCells as ForAll['emptyCells'] })}
      />
    </>
  );
}
const HERE = { contact: 'Contacts', company: 'Companies', deal: 'Deals' } as const;

/** What all contacts of a file get beside what their rows say. */
function AlsoGiven({
  forAll,
  catalogue,
  onChange,
  put,
}: Omit<ForAllRowsProps, 'of'> & { put: (name: 'list' | 'owner' | 'consent', value: string) => void }) {
  const { data: persons = [] } = api.usePersonsQuery(undefined, { skip: !useMay('settings:read') });
  const tags = catalogue.all('tag').filter((tag) => tag.body.value === undefined && !forAll.addTags.includes(tag.key));
  return (
    <>
      {persons.length > 0 && (
        <Asked
          label="They are minded by"
          value={forAll.owner ?? ''}
          choices={[['', 'whoever it is now'], ...persons.map(({ email, name }): [string, string] => [email, name])]}
          onPick={(owner) => put('owner', owner)}
        />
      )}
      <Asked
        label="Consent to email"
        value={forAll.consent ?? ''}
        choices={[
          ['', 'as their rows say'],
          ['given', 'given, where rows say nothing'],
          ['withdrawn', 'withdrawn, where rows say nothing'],
        ]}
        onPick={(consent) => put('consent', consent)}
      />
      <Labelled label="They get the tags">
        <span className="flex flex-wrap items-center gap-2">
          {forAll.addTags.map((key) => (
            <button
              key={key}
              type="button"
              className="btn btn-xs"
              aria-label={`Leave out ${key}`}
              onClick={() => onChange({ ...forAll, addTags: forAll.addTags.filter((each) => each !== key) })}
            >
              <Tag name={key} /> ×
            </button>
          ))}
          <select
            className="select select-sm w-auto"
            aria-label="Add a tag for all rows"
            value=""
            onChange={(event) => event.target.value && onChange({ ...forAll, addTags: [...forAll.addTags, event.target.value] })}
          >
            <option value="">{forAll.addTags.length > 0 ? 'one more …' : 'no tag'}</option>
            {tags.map(({ key }) => (
              <option key={key} value={key}>
                {key}
              </option>
            ))}
          </select>
        </span>
      </Labelled>
    </>
  );
}
