import { useState } from 'react';
import { Link } from 'react-router';
import { type Catalogue } from '@eager-sieve/core';
import { type ImportView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage, placeWords } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { useSave } from '../app/use-save';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Loading } from '../ui/states';
import { assigned, guess, newField, preview, targets, withNewFields, type Mapping, type Preview } from './import-columns';

export default function ImportContacts() {
  const catalogue = useCatalogue();
  const [chosen, setChosen] = useState<Preview | null>(null);
  const [mapping, setMapping] = useState<Mapping>({});
  const [onExisting, setOnExisting] = useState<'update' | 'skip'>('update');
  const [run, { isLoading, data: result, error, reset }] = api.useRunImportMutation();
  const [save, saving] = useSave();
  const { data: imports = [] } = api.useImportsQuery(undefined, { pollingInterval: isLoading ? 500 : 0 });
  if (!catalogue) return <Loading />;
  const choose = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    reset();
    const next = await preview(file);
    setChosen(next);
    setMapping(guess(next.columns, catalogue));
  };
  const hasEmail = Object.values(mapping).includes('email');
  const start = async (file: Preview): Promise<void> => {
    const made = withNewFields(mapping, file, catalogue);
    if (
      made.fields.length > 0 &&
      !(await save({ fields: [...made.fields] }, `New fields: ${made.fields.map(({ name }) => name).join(', ')}.`))
    )
      return;
    // Whoever tries again after a fault of the file has the fields already.
    setMapping(made.mapping);
    const byTarget = Object.fromEntries(Object.entries(made.mapping).map(([column, target]) => [target, column]));
    await run({ file: file.file, options: { name: file.file.name, mapping: byTarget, onExisting, separator: file.separator } });
  };
  const running = imports.find((each) => each.state === 'running');
  return (
    <Page
      title="Import contacts"
      sentence="From a CSV file in UTF-8. Each row is taken whole or not at all; an empty cell changes nothing."
      actions={
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={!chosen || !hasEmail || isLoading || saving}
          onClick={() => chosen && void start(chosen)}
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
          {!hasEmail && <p className="text-error mb-2">Say which column holds the email address: by it a row finds its contact.</p>}
          <Columns chosen={chosen} mapping={mapping} catalogue={catalogue} onChange={setMapping} />
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

interface ColumnsProps {
  readonly chosen: Preview;
  readonly mapping: Mapping;
  readonly catalogue: Catalogue;
  readonly onChange: (mapping: Mapping) => void;
}

/** What each column of the file is, with some of what is in it. */
function Columns({ chosen, mapping, catalogue, onChange }: ColumnsProps) {
  const mayMake = useMay('definitions:write');
  return (
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
                onChange={(event) => onChange(assigned(mapping, column, event.target.value))}
              >
                <option value="">leave out</option>
                {mayMake && <option value={newField(column)}>a new field: {column}</option>}
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
  );
}

/** A server that is stopped in between hands the import over to the next. */
const ENDS: Record<ImportView['state'], string> = {
  running: 'The import goes on by itself',
  done: 'The file is in',
  failed: 'The import stopped',
  cancelled: 'The import was cancelled',
};

function Result({ result }: { result: ImportView }) {
  return (
    <section className="mt-4" role="status">
      <h2 className="text-[15px]">
        {ENDS[result.state]}: {count(result.created)} new, {count(result.updated)} brought up to date, {count(result.unchanged)} left as
        they were, {count(result.faulty)} refused
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
        <Link className="leads" to={result.state === 'done' ? '/people' : '/intake'}>
          {result.state === 'done' ? 'To the people' : 'To the imports'}
        </Link>
      </p>
    </section>
  );
}
