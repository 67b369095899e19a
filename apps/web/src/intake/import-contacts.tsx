import { useState, type DragEvent } from 'react';
import { Link } from 'react-router';
import { type ImportView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Loading } from '../ui/states';
import { FILE_TYPES, headOf, NEW_FIELD, remember, withNewFields, type Reading } from './import-columns';
import { chosenFrom, findsWhom, Mapped, optionsOf, readAs, RowsAre, type Chosen } from './import-mapped';
import { STANDARD, type ForAll } from './import-options';
import { Rehearsal } from './import-rehearsal';
import { RefusedRows } from './refused-rows';

export default function ImportContacts() {
  const catalogue = useCatalogue();
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [forAll, setForAll] = useState<ForAll>(STANDARD);
  const [rows, setRows] = useState<Pick<Reading, 'of' | 'signalType'>>({ of: 'contact' });
  const { of } = rows;
  const [run, { isLoading, data: result, error, reset }] = api.useRunImportMutation();
  const [rehearse, rehearsal] = api.useRehearseImportMutation();
  const [save, saving] = useSave();
  const { data: imports = [] } = api.useImportsQuery(undefined, { pollingInterval: isLoading ? 500 : 0 });
  if (!catalogue) return <Loading />;
  const again = (): void => {
    reset();
    rehearsal.reset();
  };
  const choose = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    again();
    setChosen(chosenFrom(file, await headOf(file), rows, catalogue));
  };
  const change = (next: Partial<Reading>): void => {
    if (!chosen) return;
    rehearsal.reset();
    setChosen(readAs(chosen, next, catalogue));
  };
  const canFind = chosen !== null && findsWhom(chosen, forAll);
  const start = async (file: Chosen): Promise<void> => {
    const made = withNewFields(file.mapping, file.preview, catalogue, of);
    if (
      made.fields.length > 0 &&
      !(await save({ fields: [...made.fields] }, `New fields: ${made.fields.map(({ name }) => name).join(', ')}.`))
    )
      return;
    // Whoever tries again after a fault of the file has the fields already.
    setChosen({ ...file, mapping: made.mapping });
    remember(made.mapping);
    rehearsal.reset();
    await run({ file: file.preview.file, options: optionsOf(file, made.mapping, forAll) });
  };
  /** New fields are made only when the file is brought in: until then their columns are left out. */
  const look = (file: Chosen): void => {
    const known = Object.fromEntries(Object.entries(file.mapping).filter(([, target]) => !target.startsWith(NEW_FIELD)));
    void rehearse({ file: file.preview.file, options: optionsOf(file, known, forAll) });
  };
  const running = imports.find((each) => each.state === 'running');
  const busy = isLoading || saving || rehearsal.isLoading;
  return (
    <Page
      title="Import"
      sentence="From a table (CSV), JSON lines or vCards. Each row is taken whole or not at all. Rehearse it first to see what it would do."
      actions={
        <>
          <button
            type="button"
            className="btn btn-sm btn-outline btn-primary"
            disabled={!canFind || busy}
            onClick={() => chosen && look(chosen)}
          >
            {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse'}
          </button>
          <button type="button" className="btn btn-sm btn-primary" disabled={!canFind || busy} onClick={() => chosen && void start(chosen)}>
            {isLoading ? 'Importing …' : 'Import'}
          </button>
        </>
      }
    >
      <RowsAre
        rows={rows}
        catalogue={catalogue}
        onChange={(next) => {
          setRows(next);
          change(next);
          if (next.of === 'signal' && forAll.matchBy === 'phone') setForAll({ ...forAll, matchBy: 'email' });
        }}
      />
      <FileChoice onChoose={(file) => void choose(file)} />
      {(error ?? rehearsal.error) && (
        <p role="alert" className="text-error mt-3 font-medium">
          {errorMessage(error ?? rehearsal.error)}
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
      {result && <Result result={result} of={of} />}
      {rehearsal.data && !result && <Rehearsal answer={rehearsal.data} of={of} />}
      {chosen && !result && (
        <Mapped
          chosen={chosen}
          catalogue={catalogue}
          hasMatch={canFind}
          forAll={forAll}
          onForAll={(next) => {
            rehearsal.reset();
            setForAll(next);
          }}
          onRead={change}
          onMap={(mapping) => {
            rehearsal.reset();
            setChosen({ ...chosen, mapping });
          }}
        />
      )}
    </Page>
  );
}

/** A file that is chosen or dropped, or rows that are pasted. */
function FileChoice({ onChoose }: { onChoose: (file: File | undefined) => void }) {
  const [isOver, setOver] = useState(false);
  const [pasted, setPasted] = useState('');
  const drop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    onChoose(event.dataTransfer.files[0]);
  };
  return (
    <div
      className={`panel p-4 ${isOver ? 'outline-primary outline-2' : ''}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <label className="block">
        <span className="mb-1 block font-medium">The file</span>
        <input type="file" accept={FILE_TYPES} onChange={(event) => onChoose(event.target.files?.[0])} />
      </label>
      <p className="quiet mt-1">or drop it here</p>
      <details className="mt-2">
        <summary className="cursor-pointer">Paste rows instead</summary>
        <textarea
          className="textarea textarea-sm mt-1.5 h-28 w-full py-1.5 font-mono text-[12px]"
          aria-label="Rows to import"
          placeholder={'email;city\nanna@place.example;Mill End'}
          value={pasted}
          onChange={(event) => setPasted(event.target.value)}
        />
        <button
          type="button"
          className="btn btn-xs mt-1"
          disabled={pasted.trim() === ''}
          onClick={() => onChoose(new File([pasted], 'pasted rows.csv', { type: 'text/csv' }))}
        >
          Take these rows
        </button>
      </details>
    </div>
  );
}

/** A server that is stopped in between hands the import over to the next. */
const ENDS: Record<ImportView['state'], string> = {
  running: 'The import goes on by itself',
  done: 'The file is in',
  failed: 'The import stopped',
  cancelled: 'The import was cancelled',
};

const LEADS: Record<Reading['of'], readonly [to: string, words: string]> = {
  contact: ['/people', 'To the people'],
  company: ['/people/companies', 'To the companies'],
  deal: ['/people/deals', 'To the deals'],
  signal: ['/intake/stream?source=import', 'To the signals'],
};

function Result({ result, of }: { result: ImportView; of: Reading['of'] }) {
  const [to, words] = result.state === 'done' ? LEADS[of] : ['/intake', 'To the imports'];
  return (
    <section className="mt-4" role="status">
      <h2 className="text-[15px]">
        {ENDS[result.state]}: {count(result.created)} new,{' '}
        {of === 'signal'
          ? `${count(result.unchanged)} here already, `
          : `${count(result.updated)} brought up to date, ${count(result.unchanged)} left as they were, `}
        {count(result.faulty)} refused
      </h2>
      {result.error && <p className="text-error font-medium">{result.error}</p>}
      {result.faults.length > 0 && (
        <>
          <RefusedRows faulty={result.faulty} faults={result.faults} />
          <p className="mt-2">
            <a className="leads" download href={`/api/app/imports/${result.id}/faults`}>
              The refused rows as a file to mend
            </a>{' '}
            <span className="quiet">Mend it and import it: what is wrong stands in its last column.</span>
          </p>
        </>
      )}
      <p className="mt-3">
        <Link className="leads" to={to}>
          {words}
        </Link>
      </p>
    </section>
  );
}
