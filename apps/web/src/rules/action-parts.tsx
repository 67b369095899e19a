import { storageOf, type ActionOf, type Catalogue, type RuleAction, type RuleSubject } from '@eager-sieve/core';
import { Choice } from '../conditions/lines/inputs';
import { KeepsInput } from '../scores/line-details';
import { PersonInput, useFirstPerson } from '../ui/person-input';
import { cards, lists, settable } from './action-choices';
import { GivenOrDetail, NumberInput, TextInput, ValueInput } from './action-inputs';

interface PartsProps {
  readonly action: RuleAction;
  readonly name: string;
  /** of whom the rule is */
  readonly of?: RuleSubject;
  readonly catalogue: Catalogue;
  readonly onChange: (action: RuleAction) => void;
}

/** What an action does it with, as inputs of its kind. */
export function ActionParts({ action, name, of = 'contact', catalogue, onChange }: PartsProps) {
  const nobody = of === 'company' ? 'anyone' : 'whoever minds the contact';
  const pick = (
    label: string,
    value: number,
    choices: readonly { id: number; key: string; name: string }[],
    set: (id: number) => RuleAction,
  ) => (
    <Choice
      label={`${label} of ${name}`}
      value={String(value)}
      choices={choices.map((choice) => [String(choice.id), label === 'Tag' ? choice.key : choice.name])}
      onPick={(id) => onChange(set(Number(id)))}
    />
  );
  switch (action.do) {
    case 'add tag':
      return <AddTag action={action} name={name} catalogue={catalogue} onChange={onChange} />;
    case 'remove tag':
      return (
        <>
          {pick('Tag', action.tag, catalogue.all('tag'), (tag) => ({ ...action, tag }))}
          <Choice
            label={`Reasons of ${name}`}
            value={action.only ?? 'all'}
            choices={[
              ['all', 'whoever gave it'],
              ['this rule', 'where this rule gave it'],
            ]}
            onPick={(only) => onChange(only === 'all' ? { do: 'remove tag', tag: action.tag } : { ...action, only: 'this rule' })}
          />
        </>
      );
    case 'set field':
    case 'set company field': {
      const whose = action.do === 'set company field' ? 'company' : of;
      return (
        <>
          {pick('Field', action.field, settable(catalogue, whose), (field) => ({ ...action, field, value: '' }))}
          <ValueInput
            body={catalogue.body('field', action.field)}
            name={name}
            value={action.value}
            onChange={(value) => onChange({ ...action, value: value as string })}
          />
        </>
      );
    }
    case 'clear field':
      return pick('Field', action.field, settable(catalogue, of), (field) => ({ ...action, field }));
    case 'increase field':
      return (
        <>
          {pick(
            'Field',
            action.field,
            settable(catalogue, of).filter((field) => storageOf[field.body.type] === 'number'),
            (field) => ({ ...action, field }),
          )}
          <span className="quiet">by</span>
          <GivenOrDetail name={name} value={action.by} numeric onChange={(by) => onChange({ ...action, by: by as number })} />
        </>
      );
    case 'put on list':
    case 'take off list':
      return pick('List', action.audience, lists(catalogue), (audience) => ({ ...action, audience }));
    case 'give points':
      return (
        <>
          <NumberInput label={`Points of ${name}`} value={action.points} onChange={(points) => onChange({ ...action, points })} />
          <span className="quiet">of</span>
          {pick('Scorecard', action.scorecard, cards(catalogue), (scorecard) => ({ ...action, scorecard }))}
          <KeepsInput value={action.keeps} onChange={(keeps) => onChange({ ...action, keeps })} />
        </>
      );
    case 'set stage':
      return (
        <>
          {pick('Stage', action.stage, catalogue.ladder(), (stage) => ({ ...action, stage }))}
          <Choice
            label={`Direction of ${name}`}
            value={action.backward ? 'both' : 'forward'}
            choices={[
              ['forward', 'forward only'],
              ['both', 'also backward'],
            ]}
            onPick={(way) => onChange(way === 'both' ? { ...action, backward: true } : { do: 'set stage', stage: action.stage })}
          />
        </>
      );
    case 'assign owner':
      return <AssignOwner action={action} name={name} catalogue={catalogue} onChange={onChange} />;
    case 'make task':
      return (
        <>
          <TextInput label={`Title of ${name}`} value={action.title} onChange={(title) => onChange({ ...action, title })} />
          <span className="quiet">due in</span>
          <NumberInput
            label={`Days of ${name}`}
            value={action.dueDays}
            onChange={(days) => onChange({ ...action, dueDays: Math.max(0, Math.trunc(days)) })}
          />
          <span className="quiet">days, for</span>
          <PersonInput
            label={`Person of ${name}`}
            value={action.for ?? ''}
            placeholder={nobody}
            onChange={(to) => onChange(withOr(action, 'for', to))}
          />
        </>
      );
    case 'notify':
      return (
        <>
          <TextInput label={`Text of ${name}`} value={action.text} onChange={(text) => onChange({ ...action, text })} />
          <span className="quiet">to</span>
          <PersonInput
            label={`Person of ${name}`}
            value={action.to ?? ''}
            placeholder={nobody}
            onChange={(to) => onChange(withOr(action, 'to', to))}
          />
        </>
      );
    case 'run bundle':
      return pick('Bundle', action.bundle, catalogue.all('bundle'), (bundle) => ({ ...action, bundle }));
  }
}

/** The action with a part, or without it where it is empty. */
function withOr<Action extends RuleAction>(action: Action, part: string, value: string): Action {
  const next: Record<string, unknown> = { ...action };
  if (value === '') delete next[part];
  else next[part] = value;
  return next as Action;
}

function AddTag({ action, name, catalogue, onChange }: PartsProps & { action: ActionOf<'add tag'> }) {
  const valued = catalogue.body('tag', action.tag)?.value;
  return (
    <>
      <Choice
        label={`Tag of ${name}`}
        value={String(action.tag)}
        choices={catalogue.all('tag').map((tag) => [String(tag.id), tag.key])}
        onPick={(id) => onChange({ do: 'add tag', tag: Number(id) })}
      />
      {valued && (
        <>
          <span className="quiet">valued</span>
          <GivenOrDetail
            name={name}
            value={action.value ?? ''}
            numeric={valued === 'number'}
            onChange={(value) => onChange(value === '' ? { do: 'add tag', tag: action.tag } : { ...action, value })}
          />
        </>
      )}
    </>
  );
}

function AssignOwner({ action, name, catalogue, onChange }: PartsProps & { action: ActionOf<'assign owner'> }) {
  const tables = catalogue.all('routing');
  const first = useFirstPerson();
  const replace = action.replace ? { replace: true } : {};
  return (
    <>
      <Choice
        label={`Owner of ${name}`}
        value={action.routing === undefined ? 'direct' : String(action.routing)}
        choices={[['direct', 'this person'], ...tables.map((table) => [String(table.id), `by ${table.name}`] as const)]}
        onPick={(how) =>
          onChange(
            how === 'direct' ? { do: 'assign owner', owner: first, ...replace } : { do: 'assign owner', routing: Number(how), ...replace },
          )
        }
      />
      {action.owner !== undefined && (
        <PersonInput label={`Sign-in address of ${name}`} value={action.owner} onChange={(owner) => onChange({ ...action, owner })} />
      )}
      <Choice
        label={`Whether ${name} replaces`}
        value={action.replace ? 'replace' : 'none'}
        choices={[
          ['none', 'where there is none'],
          ['replace', 'also where there is one'],
        ]}
        onPick={(which) => {
          const { replace: _replace, ...rest } = action;
          onChange(which === 'replace' ? { ...rest, replace: true } : rest);
        }}
      />
    </>
  );
}
