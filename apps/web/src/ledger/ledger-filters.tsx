import { type AnyDefinition, type DefinitionKind } from '@eager-sieve/core';
import { type LedgerFilter } from '@eager-sieve/contracts';
import { useId, useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { DefinitionSelect } from '../ui/definition-select';
import { DayInput } from '../ui/day-input';
import { Labelled } from '../ui/labelled';

const KINDS = [
  ['', 'everything'],
  ['tag', 'tags'],
  ['field', 'fields'],
  ['stage', 'stages'],
  ['owner', 'owners'],
  ['membership', 'memberships'],
  ['band', 'bands'],
  ['points', 'points'],
  ['firing', 'rules'],
  ['consent', 'consent'],
  ['deal', 'deals'],
  ['setting', 'settings and sends'],
] as const;
const CAUSES: readonly (readonly [NonNullable<LedgerFilter['cause']> | '', string])[] = [
  ['', 'whatever it was for'],
  ['signal', 'a signal'],
  ['person', 'a person'],
  ['api', 'the API'],
  ['import', 'an import'],
  ['definition', 'a definition that was saved'],
  ['clock', 'the clock'],
  ['sweep', 'a run of a rule'],
  ['effect', 'something done to others'],
  ['take back', 'taking back'],
  ['again', 'doing again what was taken back'],
  ['merge', 'a merge'],
];
const NAMES = ['kind', 'cause', 'ref', 'by', 'about', 'version', 'who', 'from', 'to'] as const;

/** What the ledger is narrowed to. It stands in the address, so that it can be sent to somebody. */
export function useLedgerFilter() {
  const [search, setSearch] = useSearchParams();
  const filter = Object.fromEntries(NAMES.flatMap((name) => (search.get(name) ? [[name, search.get(name)]] : []))) as LedgerFilter;
  const put = (name: (typeof NAMES)[number], value: string): void =>
    setSearch(
      (before) => {
        if (value.trim() === '') before.delete(name);
        else before.set(name, value.trim());
        return before;
      },
      { replace: true },
    );
  const clear = (): void => setSearch({}, { replace: true });
  return { filter, put, clear, isNarrow: Object.keys(filter).length > 0 };
}

/** By kind, cause, person, definition, contact and days. */
export function LedgerFilters({ filter, put, clear, isNarrow }: ReturnType<typeof useLedgerFilter>) {
  const catalogue = useCatalogue();
  const { data: persons = [] } = api.usePersonsQuery(undefined, { skip: !useMay('settings:read') });
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
      <Labelled label="What was done">
        <Choice label="Show" value={filter.kind ?? ''} choices={KINDS} onPick={(kind) => put('kind', kind)} />
      </Labelled>
      <Labelled label="Because of">
        <Choice label="Because of" value={filter.cause ?? ''} choices={CAUSES} onPick={(cause) => put('cause', cause)} />
      </Labelled>
      <TextFilter
        label="By whom"
        placeholder="email of a person"
        value={filter.by ?? ''}
        known={persons.map(({ email }) => email)}
        onPut={(by) => put('by', by)}
      />
      {catalogue && (
        <Labelled label="Tag, audience, rule …">
          <DefinitionSelect
            label="Tag, audience, rule …"
            none="any of them"
            value={filter.about ?? ''}
            groups={GROUPS.map(([kind, title]) => ({ kind, title, definitions: catalogue.every(kind) as readonly AnyDefinition[] }))}
            onPick={(about) => put('about', about)}
          />
        </Labelled>
      )}
      <TextFilter label="To whom" placeholder="email of a contact" value={filter.who ?? ''} onPut={(who) => put('who', who)} />
      <DayFilter label="From" value={filter.from ?? ''} onPut={(from) => put('from', from)} />
      <DayFilter label="Up to" value={filter.to ?? ''} onPut={(to) => put('to', to)} />
      {filter.ref && filter.cause && <Chip words={`${REFS[filter.cause] ?? 'only'} ${filter.ref}`} onLeave={() => put('ref', '')} />}
      {filter.version !== undefined && <Chip words={`version ${filter.version}`} onLeave={() => put('version', '')} />}
      {isNarrow && (
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={clear}>
          Show everything
        </button>
      )}
    </div>
  );
}

const REFS: Partial<Record<NonNullable<LedgerFilter['cause']>, string>> = { import: 'import', sweep: 'run' };

/** What it is narrowed to by a link from elsewhere. */
function Chip({ words, onLeave }: { words: string; onLeave: () => void }) {
  return (
    <button type="button" className="btn btn-sm" aria-label={`Not only ${words}`} onClick={onLeave}>
      {words} ×
    </button>
  );
}

interface TextFilterProps {
  readonly label: string;
  readonly placeholder: string;
  readonly value: string;
  readonly known?: readonly string[];
  readonly onPut: (value: string) => void;
}

/** A text that is asked for when it is finished: by Enter, by leaving it, or by picking what is known. */
function TextFilter({ label, placeholder, value, known = [], onPut }: TextFilterProps) {
  const [typed, setTyped] = useState(value);
  const [from, setFrom] = useState(value);
  const id = useId();
  if (from !== value) {
    setFrom(value);
    setTyped(value);
  }
  return (
    <Labelled label={label}>
      <input
        className="input input-sm w-40"
        placeholder={placeholder}
        list={known.length > 0 ? id : undefined}
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          if (known.includes(event.target.value)) onPut(event.target.value);
        }}
        onKeyDown={(event) => event.key === 'Enter' && onPut(typed)}
        onBlur={() => typed !== value && onPut(typed)}
      />
      {known.length > 0 && (
        <datalist id={id}>
          {known.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
    </Labelled>
  );
}

function DayFilter({ label, value, onPut }: { label: string; value: string; onPut: (value: string) => void }) {
  return (
    <Labelled label={label}>
      <DayInput label={label} value={value} onChange={onPut} />
    </Labelled>
  );
}

const GROUPS = [
  ['field', 'Fields'],
  ['tag', 'Tags'],
  ['form', 'Forms'],
  ['scorecard', 'Scorecards'],
  ['audience', 'Audiences and lists'],
  ['rule', 'Rules'],
  ['message', 'Messages'],
] as const satisfies readonly (readonly [DefinitionKind, string])[];
