import { type Catalogue } from '@eager-sieve/core';
import { Choice } from '../conditions/lines/inputs';
import { datesIn, guess, preview, readingOf, type Mapping, type Preview, type Reading } from './import-columns';
import { Columns, ForAllRows, ReadingChoices, type ForAll } from './import-options';

/** A file by its head, and how it is read. */
export interface Chosen {
  readonly preview: Preview;
  readonly head: Uint8Array;
  readonly reading: Reading;
  readonly mapping: Mapping;
}

/** How a file is read, as its head looks. */
export function chosenFrom(file: File, head: Uint8Array, rows: Pick<Reading, 'of' | 'signalType'>, catalogue: Catalogue): Chosen {
  const reading = readingOf(file.name, head);
  const shown = preview(file, head, reading);
  return {
    preview: shown,
    head,
    reading: { ...reading, ...rows, dates: datesIn(shown.rows) },
    mapping: guess(shown.columns, catalogue, rows),
  };
}

/** The same file, read otherwise. */
export function readAs(chosen: Chosen, next: Partial<Reading>, catalogue: Catalogue): Chosen {
  const reading = { ...chosen.reading, ...next };
  const shown = preview(chosen.preview.file, chosen.head, reading);
  return { ...chosen, reading, preview: shown, mapping: guess(shown.columns, catalogue, reading) };
}

/** Whether a row can find whom it is about. */
export const findsWhom = ({ mapping, reading: { of, signalType } }: Chosen, forAll: ForAll): boolean =>
  Object.values(mapping).includes(neededOf(of, forAll)[0]) && (of !== 'signal' || !!signalType);

export const optionsOf = ({ preview: { file }, reading }: Pick<Chosen, 'preview' | 'reading'>, mapping: Mapping, forAll: ForAll) => ({
  name: file.name,
  ...reading,
  ...forAll,
  mapping: Object.fromEntries(Object.entries(mapping).map(([column, target]) => [target, column])),
});

interface MappedProps {
  readonly chosen: Chosen;
  readonly catalogue: Catalogue;
  readonly hasMatch: boolean;
  readonly forAll: ForAll;
  readonly onForAll: (forAll: ForAll) => void;
  readonly onRead: (reading: Partial<Reading>) => void;
  readonly onMap: (mapping: Mapping) => void;
}

const OUTSIDE_ID = ['outsideId', 'the outside id'] as const;
const NEEDED = { email: ['email', 'the email address'], outsideId: OUTSIDE_ID, phone: ['field:phone', 'the phone number'] } as const;
/** By what a row finds what it is about: where its column goes, and what that is called. */
const neededOf = (of: Reading['of'], { matchBy }: ForAll): readonly [target: string, name: string] =>
  of === 'company' || of === 'deal' ? OUTSIDE_ID : NEEDED[matchBy];

interface RowsAreProps {
  readonly rows: Pick<Reading, 'of' | 'signalType'>;
  readonly catalogue: Catalogue;
  readonly onChange: (rows: Pick<Reading, 'of' | 'signalType'>) => void;
}

/** What the rows are. */
export function RowsAre({ rows: { of, signalType = '' }, catalogue, onChange }: RowsAreProps) {
  const types = catalogue.all('signalType');
  return (
    <p className="mb-3 flex flex-wrap items-center gap-2">
      The rows are
      <Choice
        label="What the rows are"
        value={of}
        choices={[
          ['contact', 'contacts'],
          ['company', 'companies'],
          ['deal', 'deals'],
          ['signal', 'signals: what happened'],
        ]}
        onPick={(next) => onChange({ of: next as Reading['of'] })}
      />
      {of === 'signal' && (
        <>
          of the type
          <Choice
            label="Type of the signals"
            value={signalType}
            choices={types.map(({ key, name }): [string, string] => [key, name])}
            onPick={(type) => onChange({ of, signalType: type })}
          />
        </>
      )}
    </p>
  );
}

/** The column by whose number rows belong together, where a row holds one item of a list. */
function numberOf(mapping: Mapping, type: string | undefined): string | undefined {
  const columns = Object.entries(mapping);
  if (!columns.some(([, target]) => /^detail:[^.]+\../.test(target))) return undefined;
  return ['id', ...(type === 'order.placed' ? ['detail:order'] : [])].flatMap(
    (target) => columns.find(([, to]) => to === target)?.[0] ?? [],
  )[0];
}

/** How the file is read, which column is what, and what goes for all its rows. */
export function Mapped({
  chosen: { preview: shown, reading, mapping },
  catalogue,
  hasMatch,
  forAll,
  onForAll,
  onRead,
  onMap,
}: MappedProps) {
  const matched = neededOf(reading.of, forAll)[1];
  const number = reading.of === 'signal' ? numberOf(mapping, reading.signalType) : undefined;
  return (
    <>
      <section className="mt-4">
        <h2 className="mb-1.5 text-[15px]">How it is read</h2>
        <ReadingChoices reading={reading} onChange={onRead} />
      </section>
      <section className="mt-4">
        <h2 className="mb-1.5 text-[15px]">Which column is what</h2>
        {!hasMatch && <p className="text-error mb-2">Say which column holds {matched}: by it a row finds whom it is about.</p>}
        <Columns chosen={shown} mapping={mapping} catalogue={catalogue} reading={reading} onChange={onMap} />
        {number !== undefined && (
          <p className="quiet mt-2">Rows right behind each other with the same “{number}” become one, with an item from each.</p>
        )}
      </section>
      <section className="mt-4">
        <h2 className="mb-1.5 text-[15px]">For all rows</h2>
        <ForAllRows of={reading.of} forAll={forAll} catalogue={catalogue} onChange={onForAll} />
      </section>
    </>
  );
}
