import { pathWords, type Catalogue, type MapBody } from '@eager-sieve/core';
import { useId, useState, type ChangeEvent } from 'react';
import { FaultsAt } from '../ui/faults-at';
import { Tag } from '../ui/tag';
import { Wide } from '../ui/wide';
import { rowsFromCsv, rowsToCsv } from './map-csv';

type Row = MapBody['rows'][number];

/** What the parts of the page of a map are given. */
export interface MapProps {
  readonly body: MapBody;
  readonly catalogue: Catalogue;
  readonly put: (next: Partial<MapBody>) => void;
  /** what signals have named lately */
  readonly known: readonly string[];
}

/** What a detail of the signals of a map is called. */
export function detailWords({ adds, takes }: MapBody, path: string, catalogue: Catalogue): string {
  const [type] = [...adds, ...takes];
  return pathWords(path, catalogue.body('signalType', type ?? -1)?.fields ?? []);
}

/** The rows of a map: what a signal names, and which tags it gives or takes. */
export function MapRows({ body, catalogue, put, known }: MapProps) {
  const knownId = useId();
  return (
    <>
      <datalist id={knownId}>
        {known.map((value) => (
          <option key={value} value={value} />
        ))}
      </datalist>
      <Wide>
        <table className="table w-full min-w-[620px] table-fixed">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="h-6.5 w-[28%]">{detailWords(body, body.path, catalogue)} is</th>
              <th className="w-[24%]">gives</th>
              <th className="w-[20%]">takes off</th>
              <th className="w-[20%]">when taken back, gives</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {body.rows.map((each, index) => (
              <MapRow
                key={index}
                index={index}
                knownId={knownId}
                row={each}
                catalogue={catalogue}
                onChange={(next) => put({ rows: body.rows.with(index, next) })}
                onRemove={() => put({ rows: body.rows.toSpliced(index, 1) })}
              />
            ))}
          </tbody>
        </table>
      </Wide>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-xs" onClick={() => put({ rows: [...body.rows, { value: '', add: [], remove: [] }] })}>
          + row
        </button>
        <MapFile body={body} catalogue={catalogue} put={put} />
        <span className="quiet text-[12.5px]">A star stands for any text: “Glaze *”.</span>
      </div>
    </>
  );
}

/** The rows as a spreadsheet, out and in. */
function MapFile({ body, catalogue, put }: Omit<MapProps, 'known'>) {
  const [wrong, setWrong] = useState<readonly string[]>([]);
  const choose = async (event: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const file = event.target.files?.[0];
    event.target.value = '';
    if (!file) return;
    const read = rowsFromCsv(await file.text(), catalogue);
    setWrong(read.wrong);
    if (read.wrong.length === 0) put({ rows: read.rows });
  };
  return (
    <>
      <a
        className="leads text-[12.5px]"
        download="signal-map.csv"
        href={`data:text/csv;charset=utf-8,${encodeURIComponent(rowsToCsv(body.rows, catalogue))}`}
      >
        Rows as CSV
      </a>
      <label className="leads cursor-pointer text-[12.5px] focus-within:underline">
        Rows from CSV
        <input type="file" accept=".csv,text/csv" className="sr-only" onChange={(event) => void choose(event)} />
      </label>
      {wrong.length > 0 && (
        <p role="alert" className="text-error basis-full">
          No row was taken: {wrong.slice(0, 5).join(' ')}
        </p>
      )}
    </>
  );
}

interface MapRowProps {
  readonly index: number;
  readonly knownId: string;
  readonly row: Row;
  readonly catalogue: Catalogue;
  readonly onChange: (row: Row) => void;
  readonly onRemove: () => void;
}

function MapRow({ index, knownId, row, catalogue, onChange, onRemove }: MapRowProps) {
  return (
    <tr className="border-base-300/60 border-b align-top">
      <td className="py-1.5 pr-3">
        <input
          className="input input-sm w-full"
          aria-label={`Value of row ${index + 1}`}
          list={knownId}
          value={row.value}
          onChange={(event) => onChange({ ...row, value: event.target.value })}
        />
        <FaultsAt path={['rows', index]} />
      </td>
      <td className="py-1.5">
        <Tags label={`given by row ${index + 1}`} chosen={row.add} catalogue={catalogue} onChange={(add) => onChange({ ...row, add })} />
      </td>
      <td className="py-1.5">
        <Tags
          label={`taken off by row ${index + 1}`}
          chosen={row.remove}
          catalogue={catalogue}
          onChange={(remove) => onChange({ ...row, remove })}
        />
      </td>
      <td className="py-1.5">
        <Tags
          label={`given back by row ${index + 1}`}
          chosen={row.whenTaken?.add ?? []}
          catalogue={catalogue}
          onChange={(add) => onChange({ ...row, whenTaken: { add, remove: row.whenTaken?.remove ?? [] } })}
        />
      </td>
      <td className="py-1.5 text-right">
        <button type="button" className="btn btn-xs" onClick={onRemove}>
          Remove
        </button>
      </td>
    </tr>
  );
}

function Tags({
  label,
  chosen,
  catalogue,
  onChange,
}: {
  label: string;
  chosen: readonly number[];
  catalogue: Catalogue;
  onChange: (ids: number[]) => void;
}) {
  return (
    <span className="flex flex-wrap items-center gap-x-2 gap-y-1">
      {chosen.map((id) => (
        <button
          key={id}
          type="button"
          className="cursor-pointer"
          title="Leave it out"
          onClick={() => onChange(chosen.filter((each) => each !== id))}
        >
          <Tag name={catalogue.get('tag', id)?.key ?? ''} /> ×
        </button>
      ))}
      <select
        className="select select-sm w-auto max-w-32"
        aria-label={`Tags ${label}`}
        value=""
        onChange={(event) => onChange([...chosen, Number(event.target.value)])}
      >
        <option value="">+ tag</option>
        {catalogue
          .all('tag')
          .filter((tag) => !chosen.includes(tag.id))
          .map((tag) => (
            <option key={tag.id} value={tag.id}>
              {tag.key}
            </option>
          ))}
      </select>
    </span>
  );
}
