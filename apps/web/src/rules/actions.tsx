import { actionWords, storageOf, type ActionOf, type Catalogue, type FieldBody, type RuleAction } from '@eager-sieve/core';
import { type KeyboardEvent } from 'react';
import { Choice } from '../conditions/lines/inputs';
import { KeepsInput } from '../scores/line-details';
import { PersonInput, useFirstPerson } from '../ui/person-input';
import { GivenOrDetail, NumberInput, TextInput, ValueInput } from './action-inputs';

interface ActionsProps {
  readonly actions: readonly RuleAction[];
  readonly catalogue: Catalogue;
  readonly onChange: (actions: RuleAction[]) => void;
  /** bundles run no bundles */
  readonly inBundle?: boolean;
}

type Do = RuleAction['do'];
const WORDS: Readonly<Record<Do, string>> = {
  'add tag': 'add tag',
  'remove tag': 'remove tag',
  'set field': 'set field',
  'clear field': 'clear field',
  'increase field': 'increase field',
  'put on list': 'put on list',
  'take off list': 'take off list',
  'give points': 'give points',
  'set stage': 'set stage',
  'set company field': 'set field of the company',
  'assign owner': 'assign owner',
  'make task': 'make task',
  notify: 'notify',
  'run bundle': 'run bundle',
};

const SET_BY_ITSELF = new Set(['email', 'added', 'company-name', 'fit-grade', 'focus-company', 'part']);
const settable = (catalogue: Catalogue, of: FieldBody['of']) =>
  catalogue.all('field').filter((field) => field.body.of === of && !(of === 'contact' && SET_BY_ITSELF.has(field.key)));
const lists = (catalogue: Catalogue) =>
  catalogue.all('audience').filter((audience) => audience.body.kind === 'fixed' && audience.body.of === 'contact');
const cards = (catalogue: Catalogue) => catalogue.all('scorecard').filter((card) => card.body.of === 'contact');

/** An action to begin with, where there is what it needs. */
function made(kind: Do, catalogue: Catalogue): RuleAction | undefined {
  const tag = catalogue.all('tag')[0]?.id;
  const field = settable(catalogue, 'contact')[0]?.id;
  const number = settable(catalogue, 'contact').find((each) => storageOf[each.body.type] === 'number')?.id;
  const ofCompany = settable(catalogue, 'company')[0]?.id;
  const list = lists(catalogue)[0]?.id;
  const card = cards(catalogue)[0]?.id;
  const stage = catalogue.ladder()[0]?.id;
  const bundle = catalogue.all('bundle')[0]?.id;
  switch (kind) {
    case 'add tag':
    case 'remove tag':
      return tag === undefined ? undefined : { do: kind, tag };
    case 'set field':
      return field === undefined ? undefined : { do: kind, field, value: '' };
    case 'clear field':
      return field === undefined ? undefined : { do: kind, field };
    case 'increase field':
      return number === undefined ? undefined : { do: kind, field: number, by: 1 };
    case 'put on list':
    case 'take off list':
      return list === undefined ? undefined : { do: kind, audience: list };
    case 'give points':
      return card === undefined ? undefined : { do: kind, scorecard: card, points: 5, keeps: 'forever' };
    case 'set stage':
      return stage === undefined ? undefined : { do: kind, stage };
    case 'set company field':
      return ofCompany === undefined ? undefined : { do: kind, field: ofCompany, value: '' };
    case 'assign owner': {
      const routing = catalogue.all('routing')[0]?.id;
      return routing === undefined ? { do: kind, owner: '' } : { do: kind, routing };
    }
    case 'make task':
      return { do: kind, title: 'Get in touch', dueDays: 0 };
    case 'notify':
      return { do: kind, text: 'Have a look at this contact' };
    case 'run bundle':
      return bundle === undefined ? undefined : { do: kind, bundle };
  }
}

/** What a rule does, in order. Alt+↑ and Alt+↓ move an action. */
export function Actions({ actions, catalogue, onChange, inBundle = false }: ActionsProps) {
  const kinds = (Object.keys(WORDS) as Do[]).filter((kind) => made(kind, catalogue) !== undefined && !(inBundle && kind === 'run bundle'));
  return (
    <ol className="spoken flex flex-col gap-1">
      {actions.map((action, index) => {
        const put = (next: RuleAction): void => onChange(actions.with(index, next));
        const move = (to: number): void => {
          if (to < 0 || to >= actions.length) return;
          onChange(actions.toSpliced(index, 1).toSpliced(to, 0, action));
        };
        const pressed = (event: KeyboardEvent): void => {
          if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
          event.preventDefault();
          move(event.key === 'ArrowUp' ? index - 1 : index + 1);
        };
        return (
          <li
            key={index}
            className="group flex min-h-7 flex-wrap items-baseline gap-x-2 gap-y-1"
            aria-label={actionWords(action, catalogue)}
            onKeyDown={pressed}
          >
            <span className="quiet w-4">{index + 1}</span>
            <ActionEditor action={action} name={`action ${index + 1}`} kinds={kinds} catalogue={catalogue} onChange={put} />
            {actions.length > 1 && (
              <span className="ml-auto flex gap-2">
                {index > 0 && (
                  <button type="button" className="row-tool" onClick={() => move(index - 1)}>
                    earlier
                  </button>
                )}
                {index < actions.length - 1 && (
                  <button type="button" className="row-tool" onClick={() => move(index + 1)}>
                    later
                  </button>
                )}
                <button type="button" className="row-tool" onClick={() => onChange(actions.toSpliced(index, 1))}>
                  remove
                </button>
              </span>
            )}
          </li>
        );
      })}
      <li>
        <button
          type="button"
          className="act act-small ml-6"
          onClick={() => onChange([...actions, made('add tag', catalogue) ?? (actions[0] as RuleAction)])}
        >
          + action
        </button>
      </li>
    </ol>
  );
}

export function ActionEditor({
  action,
  name,
  kinds,
  catalogue,
  onChange,
}: {
  action: RuleAction;
  name: string;
  kinds: readonly Do[];
  catalogue: Catalogue;
  onChange: (action: RuleAction) => void;
}) {
  return (
    <>
      <Choice
        label={`What ${name} does`}
        value={action.do}
        choices={kinds.map((kind) => [kind, WORDS[kind]])}
        onPick={(kind) => {
          const next = made(kind as Do, catalogue);
          if (next) onChange(next);
        }}
      />
      <ActionParts action={action} name={name} catalogue={catalogue} onChange={onChange} />
    </>
  );
}

interface PartsProps {
  readonly action: RuleAction;
  readonly name: string;
  readonly catalogue: Catalogue;
  readonly onChange: (action: RuleAction) => void;
}

function ActionParts({ action, name, catalogue, onChange }: PartsProps) {
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
      const of = action.do === 'set field' ? 'contact' : 'company';
      return (
        <>
          {pick('Field', action.field, settable(catalogue, of), (field) => ({ ...action, field, value: '' }))}
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
      return pick('Field', action.field, settable(catalogue, 'contact'), (field) => ({ ...action, field }));
    case 'increase field':
      return (
        <>
          {pick(
            'Field',
            action.field,
            settable(catalogue, 'contact').filter((field) => storageOf[field.body.type] === 'number'),
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
            placeholder="whoever minds the contact"
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
            placeholder="whoever minds the contact"
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
