import Papa from 'papaparse';
import { useState } from 'react';
import { Link } from 'react-router';
import { type Catalogue } from '@eager-sieve/core';
import { type ImportView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage, placeWords } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Loading } from '../ui/states';

const SEPARATORS = [',', ';', '\t'] as const;
type Separator = (typeof SEPARATORS)[number];

interface Preview {
  readonly file: File;
  readonly columns: readonly string[];
  readonly rows: readonly Readonly<Record<string, string>>[];
  readonly separator: Separator;
}

const PREVIEW_BYTES = 256 * 1024;

/** Reads only the head of the file, however long it is. */
async function preview(file: File): Promise<Preview> {
  const head = await file.slice(0, PREVIEW_BYTES).text();
  const parsed = Papa.parse<Record<string, string>>(head.replace(/^\uFEFF/, ''), {
    header: true,
    preview: 6,
    skipEmptyLines: true,
    transformHeader: (name) => name.trim(),
  });
  return {
    file,
    columns: (parsed.meta.fields ?? []).filter(Boolean),
    rows: parsed.data.slice(0, 5),
    separator: SEPARATORS.find((each) => each === parsed.meta.delimiter) ?? ',',
  };
}

function targets(catalogue: Catalogue): readonly (readonly [string, string])[] {
  return [
    ['email', 'email address'],
    ['outsideId', 'outside id'],
    ['name', 'full name, given and family'],
    ...catalogue
      .all('field')
      .filter((field) => field.body.of === 'contact' && field.key !== 'email' && field.key !== 'added')
      .map((field) => [`field:${field.key}`, field.name] as const),
    ['consent:email', 'consent to email (yes / no)'],
    ...catalogue.all('tag').map((tag) => [`tag:${tag.key}`, `tag ${tag.key} (${TAG_CELLS[tag.body.value ?? 'none']})`] as const),
  ];
}

/** What a cell of a tag's column may say. */
const TAG_CELLS = { none: 'yes / no', number: 'its number, or yes / no', date: 'its date, or yes / no' } as const;

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]+/g, '');
const ALIKE: Readonly<Record<string, string>> = {
  email: 'email',
  emailaddress: 'email',
  mail: 'email',
  name: 'name',
  fullname: 'name',
  contactname: 'name',
  customername: 'name',
  firstname: 'field:given-name',
  forename: 'field:given-name',
  first: 'field:given-name',
  last: 'field:family-name',
  lastname: 'field:family-name',
  surname: 'field:family-name',
  mayemail: 'consent:email',
  consent: 'consent:email',
};

/** A guess for each column, by its name. */
function guess(columns: readonly string[], catalogue: Catalogue): Record<string, string> {
  const known = targets(catalogue);
  const mapping: Record<string, string> = {};
  for (const column of columns) {
    const target =
      ALIKE[plain(column)] ??
      known.find(([key, name]) => plain(name) === plain(column) || plain(key.replace(/^\w+:/, '')) === plain(column))?.[0];
    if (target && known.some(([key]) => key === target) && !Object.values(mapping).includes(target)) mapping[column] = target;
  }
  return mapping;
}

export default function ImportContacts() {
  const catalogue = useCatalogue();
  const [chosen, setChosen] = useState<Preview | null>(null);
  const [mapping, setMapping] = useState<Record<string, string>>({});
  const [onExisting, setOnExisting] = useState<'update' | 'skip'>('update');
  const [run, { isLoading, data: result, error, reset }] = api.useRunImportMutation();
  const { data: imports = [] } = api.useImportsQuery(undefined, { pollingInterval: isLoading ? 500 : 0 });
  if (!catalogue) return <Loading />;
  const choose = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    reset();
    const next = await preview(file);
    setChosen(next);
    setMapping(guess(next.columns, catalogue));
  };
  const byTarget = Object.fromEntries(Object.entries(mapping).map(([column, target]) => [target, column]));
  const running = imports.find((each) => each.state === 'running');
  return (
    <Page
      title="Import contacts"
      sentence="From a CSV file in UTF-8. Each row is taken whole or not at all; an empty cell changes nothing."
      actions={
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={!chosen || !('email' in byTarget) || isLoading}
          onClick={() =>
            chosen &&
            void run({ file: chosen.file, options: { name: chosen.file.name, mapping: byTarget, onExisting, separator: chosen.separator } })
          }
        >
          {isLoading ? 'Importing …' : 'Import'}
        </button>
      }
    >
      <label className="panel block p-4">
        <span className="mb-1 block font-medium">The file</span>
        <input type="file" accept=".csv,text/csv" onChange={(event) => void choose(event.target.files?.[0])} />
      </label>
      {error && (
        <p role="alert" className="text-error mt-3 font-medium">
          {errorMessage(error)}
        </p>
      )}
      {isLoading && running && (
        <p role="status" className="mt-3">
          <progress
            className="progress progress-primary mr-2 w-48"
            value={running.bytesRead}
            max={Math.max(1, running.bytes)}
            aria-label="Progress of the import"
          />
          {count(running.rows)} rows read
        </p>
      )}
      {result && <Result result={result} />}
      {chosen && !result && (
        <section className="mt-4">
          <h2 className="mb-1.5 text-[15px]">Which column is what</h2>
          {!('email' in byTarget) && (
            <p className="text-error mb-2">Say which column holds the email address: by it a row finds its contact.</p>
          )}
          <table className="table panel w-full">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="px-3 py-1.5">Column</th>
                <th>goes to</th>
                <th className="px-3">for example</th>
              </tr>
            </thead>
            <tbody>
              {chosen.columns.map((column) => (
                <tr key={column} className="border-base-300/60 border-t">
                  <td className="px-3 py-1 font-medium [overflow-wrap:anywhere]">{column}</td>
                  <td>
                    <select
                      className="select select-sm w-auto max-w-64"
                      aria-label={`Column ${column} goes to`}
                      value={mapping[column] ?? ''}
                      onChange={(event) => setMapping(assigned(mapping, column, event.target.value))}
                    >
                      <option value="">leave out</option>
                      {targets(catalogue).map(([key, name]) => (
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
          <label className="mt-3 flex items-center gap-2">
            Contacts that are here already
            <select
              className="select select-sm w-auto"
              value={onExisting}
              onChange={(event) => setOnExisting(event.target.value === 'skip' ? 'skip' : 'update')}
            >
              <option value="update">are brought up to date</option>
              <option value="skip">stay as they are</option>
            </select>
          </label>
        </section>
      )}
    </Page>
  );
}

/** A target takes one column: choosing it for another takes it from the first. */
function assigned(mapping: Readonly<Record<string, string>>, column: string, target: string): Record<string, string> {
  const next = Object.fromEntries(Object.entries(mapping).filter(([name, to]) => name !== column && to !== target));
  return target ? { ...next, [column]: target } : next;
}

function Result({ result }: { result: ImportView }) {
  return (
    <section className="mt-4" role="status">
      <h2 className="text-[15px]">
        {result.state === 'done' ? 'The file is in' : result.state === 'cancelled' ? 'The import was cancelled' : 'The import stopped'}:{' '}
        {count(result.created)} new, {count(result.updated)} brought up to date, {count(result.unchanged)} left as they were,{' '}
        {count(result.faulty)} refused
      </h2>
      {result.error && <p className="text-error font-medium">{result.error}</p>}
      {result.faults.length > 0 && (
        <table className="table panel mt-2 w-full">
          <caption className="quiet px-3 py-1 text-left">
            Rows that were refused{result.faulty > result.faults.length && `, the first ${result.faults.length}`}
          </caption>
          <tbody>
            {result.faults.map((each, index) => (
              <tr key={index} className="border-base-300/60 border-t">
                <td className="w-24 px-3 py-1">line {each.row}</td>
                <td className="text-error">
                  {each.faults.map((fault) => `${placeWords(fault.path)}: needs ${fault.expected}`).join('; ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-3">
        <Link className="leads" to="/people">
          To the people
        </Link>
      </p>
    </section>
  );
}
