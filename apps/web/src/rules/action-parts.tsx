import {
  choicesOf,
  partsOf,
  storageOf,
  type ActionOf,
  type Catalogue,
  type Definition,
  type FieldBody,
  type RuleAction,
  type RuleSubject,
  ownFields,
} from '@eager-sieve/core';
import { Checks, Choice } from '../conditions/lines/inputs';
import { PersonInput, useFirstPerson } from '../ui/person-input';
import { STATE_CHOICES } from '../ui/tag-value';
import { GivenOrDetail, ValueInput } from './action-inputs';

export interface PartsProps<Action extends RuleAction = RuleAction> {
  readonly action: Action;
  readonly name: string;
  /** of whom the rule is */
  readonly of: RuleSubject;
  readonly catalogue: Catalogue;
  readonly onChange: (action: RuleAction) => void;
}

const SET_BY_ITSELF: Readonly<Record<FieldBody['of'], ReadonlySet<string>>> = {
  contact: new Set([...ownFields, 'part']),
  company: new Set(['company-name', 'added']),
  deal: new Set(),
};
/** Fields that rules may write; the others the product keeps by itself. */
export const settable = (catalogue: Catalogue, of: FieldBody['of']) =>
  catalogue.all('field').filter((field) => field.body.of === of && !SET_BY_ITSELF[of].has(field.key));
export const numbers = (catalogue: Catalogue, of: FieldBody['of']) =>
  settable(catalogue, of).filter((field) => storageOf[field.body.type] === 'number');
/** The lists that rules put somebody on: rules for companies their contacts, or the company itself. */
export const lists = (catalogue: Catalogue, of: RuleSubject): PickProps['choices'] =>
  of === 'contact'
    ? catalogue.lists('contact')
    : [
        ...catalogue.lists('company').map(({ id, name }) => ({ id, name: `${name}: the company itself` })),
        ...catalogue.lists('contact').map(({ id, name }) => ({ id, name: `${name}: its contacts` })),
      ];
export const cards = (catalogue: Catalogue) => catalogue.all('scorecard').filter((card) => card.body.of === 'contact');

interface PickProps {
  readonly label: string;
  readonly value: number;
  readonly choices: readonly { readonly id: number; readonly name: string }[];
  readonly onPick: (id: number) => void;
}
export const Pick = ({ label, value, choices, onPick }: PickProps) => (
  <Choice
    label={label}
    value={String(value)}
    choices={choices.map((choice) => [String(choice.id), choice.name])}
    onPick={(id) => onPick(Number(id))}
  />
);
export const tagChoices = (catalogue: Catalogue) => catalogue.all('tag').map((tag) => ({ id: tag.id, name: tag.key }));

type SetsField = ActionOf<'set field'> | ActionOf<'set company field'>;
export const firstValue = (field: Definition<'field'> | undefined) =>
  field && { field: field.id, value: choicesOf(field.body)[0]?.key ?? '' };

/** Which field is set, and to what. */
export function SetField({ action, name, catalogue, onChange }: PartsProps<SetsField>) {
  const whose = action.do === 'set company field' ? 'company' : 'contact';
  return (
    <>
      <Pick
        label={`Field of ${name}`}
        value={action.field}
        choices={settable(catalogue, whose)}
        onPick={(field) => onChange({ ...action, field, value: '' })}
      />
      <ValueInput
        body={catalogue.body('field', action.field)}
        name={name}
        value={action.value}
        onChange={(value) => onChange({ ...action, value: value as string })}
      />
    </>
  );
}

export function OnList({ action, name, of, catalogue, onChange }: PartsProps<ActionOf<'put on list'> | ActionOf<'take off list'>>) {
  return (
    <Pick
      label={`List of ${name}`}
      value={action.audience}
      choices={lists(catalogue, of)}
      onPick={(audience) => onChange({ ...action, audience })}
    />
  );
}

/** Of which contacts of a company it is done: all, or those with a part in the purchase. */
export function WhichContacts({
  action,
  name,
  catalogue,
  onChange,
}: PartsProps<Extract<RuleAction, { readonly parts?: readonly string[] | undefined }>>) {
  const { parts: _parts, ...all } = action;
  const known = partsOf(catalogue);
  const first = known[0];
  return (
    <span className="inline-flex flex-wrap items-baseline gap-2">
      <span className="quiet">of them</span>
      <Choice
        label={`Which contacts of ${name}`}
        value={action.parts ? 'parts' : 'all'}
        choices={[
          ['all', 'all'],
          ['parts', 'those whose part is'],
        ]}
        onPick={(which) => onChange(which === 'parts' && first ? { ...all, parts: [first.key] } : all)}
      />
      {action.parts && (
        <Checks
          label={`Parts of ${name}`}
          chosen={action.parts}
          choices={known}
          // The last one stays: a rule for nobody would say nothing.
          onChange={(parts) => parts.length > 0 && onChange({ ...all, parts })}
        />
      )}
    </span>
  );
}

export const nobody = (of: RuleSubject): string => (of === 'company' ? 'anyone' : 'whoever minds the contact');

/** The action with a part, or without it where it is empty. */
export function withOr<Action extends RuleAction>(action: Action, part: string, value: string): Action {
  const next: Record<string, unknown> = { ...action };
  if (value === '') delete next[part];
  else next[part] = value;
  return next as Action;
}

export function AddTag({ action, name, catalogue, onChange }: PartsProps<ActionOf<'add tag'>>) {
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
            {...(valued === 'active' ? { choices: [['', 'nothing'], ...STATE_CHOICES] } : {})}
            onChange={(value) => onChange(value === '' ? { do: 'add tag', tag: action.tag } : { ...action, value })}
          />
        </>
      )}
    </>
  );
}

export function AssignOwner({ action, name, of, catalogue, onChange }: PartsProps<ActionOf<'assign owner'>>) {
  // Tables hand out one contact at a time.
  const tables = of === 'contact' ? catalogue.all('routing') : [];
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
