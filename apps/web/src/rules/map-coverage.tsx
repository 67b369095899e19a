import { fold, rowsBy, type Catalogue, type MapBody } from '@eager-sieve/core';
import { type MapValues } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { count, people, times } from '../ui/number';
import { Opener } from '../ui/opener';
import { Wrong } from '../ui/states';
import { When } from '../ui/when';

/** What the signals that give have named lately; nothing for whoever may not see what people sent. */
export function useMapValues({ adds, path }: Pick<MapBody, 'adds' | 'path'>, catalogue: Catalogue) {
  const may = useMay('audiences:read', 'contacts:read');
  const types = adds.flatMap((id) => catalogue.get('signalType', id)?.key ?? []);
  return api.useMapValuesQuery({ body: { types, path } }, { skip: !may || types.length === 0 });
}

interface MapCoverageProps {
  readonly body: MapBody;
  readonly values: ReturnType<typeof useMapValues>;
  readonly mayWrite: boolean;
  readonly onAdd: (values: readonly string[]) => void;
}

const SHOWN = 12;
type Value = MapValues['values'][number];

/** What was named lately and has no row, each made one by a click; and how many rows nothing has named. */
export function MapCoverage({ body, values, mayWrite, onAdd }: MapCoverageProps) {
  const [showsAll, setShowsAll] = useState(false);
  const { data, error, refetch } = values;
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return null;
  const rowFor = rowsBy(body.rows);
  const missing = data.values.filter(({ value }) => rowFor(fold(value)) === undefined);
  const named = new Set(data.values.flatMap(({ value }) => rowFor(fold(value))?.value ?? []));
  const unnamed = body.rows.filter(({ value }) => value.trim() !== '' && !named.has(value));
  const shown = showsAll ? missing : missing.slice(0, SHOWN);
  if (data.values.length === 0) return <p className="quiet my-3">Nothing was named in the last {data.days} days.</p>;
  return (
    <section className="panel my-3 px-4 py-3" aria-label="Without a row">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-[15px]">
          {missing.length === 0
            ? 'Everything named lately has a row'
            : `${count(missing.length)} of ${count(data.values.length)} have no row`}
        </h2>
        <p className="quiet flex-1 text-[12.5px]">
          Named in the last {data.days} days.
          {unnamed.length > 0 && ` Nothing named ${listed(unnamed.map(({ value }) => value))}.`}
        </p>
        {mayWrite && missing.length > 1 && (
          <button type="button" className="btn btn-xs" onClick={() => onAdd(missing.map(({ value }) => value))}>
            A row for each
          </button>
        )}
      </div>
      <ul className="divide-base-300/60 mt-1 divide-y">
        {shown.map((each) => (
          <Missing key={each.value} each={each} {...(mayWrite ? { onAdd: () => onAdd([each.value]) } : {})} />
        ))}
      </ul>
      {missing.length > SHOWN && (
        <Opener open={showsAll} onToggle={() => setShowsAll(!showsAll)} className="mt-1">
          {showsAll ? 'fewer' : `all ${count(missing.length)}`}
        </Opener>
      )}
    </section>
  );
}

function Missing({ each, onAdd }: { each: Value; onAdd?: () => void }) {
  return (
    <li className="flex flex-wrap items-baseline gap-3 py-1">
      <span className="min-w-0 flex-1 truncate font-medium">{each.value}</span>
      <span className="quiet text-[12.5px]">
        {people(each.people)}, {times(each.signals, 'time')}, last <When at={each.lastAt} />
      </span>
      {onAdd && (
        <button type="button" className="btn btn-xs" aria-label={`A row for ${each.value}`} onClick={onAdd}>
          + row
        </button>
      )}
    </li>
  );
}

const MOST_NAMED = 4;
function listed(names: readonly string[]): string {
  const shown = names.slice(0, MOST_NAMED).map((name) => `“${name}”`);
  return names.length > MOST_NAMED ? `${shown.join(', ')} and ${count(names.length - MOST_NAMED)} more` : shown.join(', ');
}
