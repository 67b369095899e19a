import { EVERYONE, type Catalogue, type RuleBody, type RuleSubject } from '@eager-sieve/core';
import { useKnown } from '../app/use-known';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { WhereEditor } from '../conditions/where-editor';
import { FaultsAt } from '../ui/faults-at';
import { SweepTimesInput } from './sweep-times';

type DateWhen = Extract<RuleBody['when'], { kind: 'date' }>;

interface DateChoice {
  readonly value: string;
  readonly name: string;
  readonly what: { field: number } | { tag: number };
}

/** The dates of a contact or a company that a rule can wait for. */
function dates(catalogue: Catalogue, of: RuleSubject): readonly DateChoice[] {
  return [
    ...catalogue
      .all('field')
      .filter((field) => field.body.of === of && (field.body.type === 'date' || field.body.type === 'date-time'))
      .map((field) => ({ value: `field ${field.id}`, name: field.name, what: { field: field.id } })),
    ...catalogue
      .all('tag')
      .filter((tag) => of === 'contact' && tag.body.value === 'date')
      .map((tag) => ({ value: `tag ${tag.id}`, name: `tag ${tag.key}`, what: { tag: tag.id } })),
  ];
}

/** What sets a rule off: something that happens, conditions that become true, a date, or that it is run. Companies send no signals of their own. */
export function When({ rule, catalogue: plain, onChange }: { rule: RuleBody; catalogue: Catalogue; onChange: (rule: RuleBody) => void }) {
  const catalogue = useKnown(plain);
  const { when } = rule;
  // A sweep has no past to begin with: it is over whoever matches when it runs.
  const put = (next: RuleBody['when']): void =>
    onChange({ ...rule, when: next, ...(next.kind === 'sweep' ? { beginsWith: 'from now on' as const } : {}) });
  const types = (rule.of === 'company' ? [] : catalogue.all('signalType')).map((type) => [String(type.id), type.body.verb] as const);
  const [date] = dates(catalogue, rule.of);
  const first = (value: string): RuleBody['when'] | undefined => {
    if (value === 'becomes') return { kind: 'becomes', condition: EVERYONE };
    if (value === 'sweep') return { kind: 'sweep', times: { every: 'week', weekday: 1, hour: 9 } };
    if (value === 'date') return date && { kind: 'date', ...date.what, days: 0, yearly: false, hour: 9 };
    return { kind: 'signal', type: Number(value) };
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="spoken">
        <Choice
          label="What sets it off"
          value={when.kind === 'signal' ? String(when.type) : when.kind}
          choices={[
            ...types,
            ['becomes', '… conditions become true'],
            ['sweep', '… it is run, by hand or at its times'],
            ...(date || when.kind === 'date' ? [['date', '… a date comes'] as const] : []),
          ]}
          onPick={(value) => {
            const next = first(value);
            if (next) put(next);
          }}
        />
      </div>
      {when.kind === 'signal' && (
        <div className="spoken">
          <WhereEditor
            of={[when.type]}
            where={when.where ?? []}
            catalogue={catalogue}
            onChange={(where) => put({ kind: 'signal', type: when.type, ...(where.length > 0 ? { where } : {}) })}
          />
        </div>
      )}
      {when.kind === 'becomes' && (
        <Outline
          at={['when', 'condition']}
          of={rule.of}
          value={asGroup(when.condition)}
          catalogue={catalogue}
          onChange={(condition) => put({ kind: 'becomes', condition })}
        />
      )}
      {when.kind === 'sweep' && (
        <SweepTimesInput times={when.times} onChange={(times) => put({ kind: 'sweep', ...(times ? { times } : {}) })} />
      )}
      {when.kind !== 'becomes' && <FaultsAt path={['when']} />}
      {when.kind === 'date' && <OnDate when={when} of={rule.of} catalogue={catalogue} onChange={put} />}
    </div>
  );
}

interface OnDateProps {
  readonly when: DateWhen;
  readonly of: RuleSubject;
  readonly catalogue: Catalogue;
  readonly onChange: (when: DateWhen) => void;
}

function OnDate({ when, of, catalogue, onChange }: OnDateProps) {
  const choices = dates(catalogue, of);
  const { field: _field, tag: _tag, ...rest } = when;
  return (
    <div className="spoken flex flex-wrap items-center gap-2">
      <input
        className="input input-sm w-20"
        type="number"
        min={0}
        aria-label="Days before or after"
        value={Math.abs(when.days)}
        onChange={(event) => onChange({ ...when, days: Math.trunc(Number(event.target.value)) * (when.days < 0 ? -1 : 1) })}
      />
      <Choice
        label="Before or after"
        value={when.days < 0 ? 'before' : 'after'}
        choices={[
          ['before', 'days before'],
          ['after', 'days after'],
        ]}
        onPick={(side) => onChange({ ...when, days: Math.abs(when.days || 1) * (side === 'before' ? -1 : 1) })}
      />
      <Choice
        label="Which date"
        value={when.field === undefined ? `tag ${when.tag ?? ''}` : `field ${when.field}`}
        choices={choices.map((choice) => [choice.value, choice.name])}
        onPick={(value) => onChange({ ...rest, ...choices.find((choice) => choice.value === value)?.what })}
      />
      <Choice
        label="Once or yearly"
        value={when.yearly ? 'yearly' : 'once'}
        choices={[
          ['once', 'once'],
          ['yearly', 'every year'],
        ]}
        onPick={(often) => onChange({ ...when, yearly: often === 'yearly' })}
      />
      <span className="quiet">at</span>
      <Choice
        label="Hour"
        value={String(when.hour)}
        choices={Array.from({ length: 24 }, (_, hour) => [String(hour), `${String(hour).padStart(2, '0')}:00`] as const)}
        onPick={(hour) => onChange({ ...when, hour: Number(hour) })}
      />
    </div>
  );
}
