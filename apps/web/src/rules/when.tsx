import { EVERYONE, type Catalogue, type RuleBody } from '@eager-sieve/core';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { WhereEditor } from '../conditions/where-editor';

type DateWhen = Extract<RuleBody['when'], { kind: 'date' }>;

interface DateChoice {
  readonly value: string;
  readonly name: string;
  readonly what: { field: number } | { tag: number };
}

/** The dates of a contact that a rule can wait for. */
function dates(catalogue: Catalogue): readonly DateChoice[] {
  return [
    ...catalogue
      .all('field')
      .filter((field) => field.body.of === 'contact' && (field.body.type === 'date' || field.body.type === 'date-time'))
      .map((field) => ({ value: `field ${field.id}`, name: field.name, what: { field: field.id } })),
    ...catalogue
      .all('tag')
      .filter((tag) => tag.body.value === 'date')
      .map((tag) => ({ value: `tag ${tag.id}`, name: `tag ${tag.key}`, what: { tag: tag.id } })),
  ];
}

/** What sets a rule off: something that happens, conditions that become true, or a date of the contact. */
export function When({ rule, catalogue, onChange }: { rule: RuleBody; catalogue: Catalogue; onChange: (rule: RuleBody) => void }) {
  const { when } = rule;
  const put = (next: RuleBody['when']): void => onChange({ ...rule, when: next });
  const types = catalogue.all('signalType').map((type) => [String(type.id), type.body.verb] as const);
  const [date] = dates(catalogue);
  const first = (value: string): RuleBody['when'] | undefined => {
    if (value === 'becomes') return { kind: 'becomes', condition: EVERYONE };
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
            fields={catalogue.detailsOf([when.type])}
            where={when.where ?? []}
            catalogue={catalogue}
            onChange={(where) => put({ kind: 'signal', type: when.type, ...(where.length > 0 ? { where } : {}) })}
          />
        </div>
      )}
      {when.kind === 'becomes' && (
        <Outline
          at={['when', 'condition']}
          value={asGroup(when.condition)}
          catalogue={catalogue}
          onChange={(condition) => put({ kind: 'becomes', condition })}
        />
      )}
      {when.kind === 'date' && <OnDate when={when} catalogue={catalogue} onChange={put} />}
    </div>
  );
}

function OnDate({ when, catalogue, onChange }: { when: DateWhen; catalogue: Catalogue; onChange: (when: DateWhen) => void }) {
  const choices = dates(catalogue);
  const { field: _field, tag: _tag, ...rest } = when;
  return (
    <div className="spoken flex flex-wrap items-center gap-2">
      <input
        className="field w-20"
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
