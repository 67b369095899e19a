import { actionsFor, isToPeople, type ActionOf, type Catalogue, type RuleAction, type RuleSubject } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { Choice } from '../conditions/lines/inputs';
import { KeepsInput } from '../scores/line-details';
import { PersonInput } from '../ui/person-input';
import { GivenOrDetail, NumberInput, TextInput } from './action-inputs';
import {
  AddTag,
  AssignOwner,
  cards,
  firstValue,
  lists,
  nobody,
  numbers,
  OnList,
  Pick,
  SetField,
  settable,
  tagChoices,
  WhichContacts,
  withOr,
  type PartsProps,
} from './action-parts';

export type Do = RuleAction['do'];

interface Editor<Action extends RuleAction> {
  readonly words: string;
  /** how it is called where it is done to a company, if otherwise */
  readonly companyWords?: string;
  /** one to begin with; nothing where there is not what it needs */
  readonly begin: (catalogue: Catalogue, of: RuleSubject) => Action | undefined;
  /** what it does it with, as inputs of its kind */
  readonly Parts: (props: PartsProps<Action>) => ReactNode;
}

/** How each action is picked and edited, in the order in which they are offered. */
const EDITORS: { readonly [Kind in Do]: Editor<ActionOf<Kind>> } = {
  'add tag': {
    words: 'add tag',
    companyWords: 'add tag to its contacts',
    begin: (catalogue) => {
      const tag = catalogue.all('tag')[0];
      return tag && { do: 'add tag', tag: tag.id };
    },
    Parts: AddTag,
  },
  'remove tag': {
    words: 'remove tag',
    companyWords: 'remove tag from its contacts',
    begin: (catalogue) => {
      const tag = catalogue.all('tag')[0];
      return tag && { do: 'remove tag', tag: tag.id };
    },
    Parts: ({ action, name, catalogue, onChange }) => (
      <>
        <Pick label={`Tag of ${name}`} value={action.tag} choices={tagChoices(catalogue)} onPick={(tag) => onChange({ ...action, tag })} />
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
    ),
  },
  'set field': {
    words: 'set field',
    companyWords: 'set field of its contacts',
    begin: (catalogue) => {
      const set = firstValue(settable(catalogue, 'contact')[0]);
      return set && { do: 'set field', ...set };
    },
    Parts: SetField,
  },
  'set company field': {
    words: 'set field of the company',
    companyWords: 'set field',
    begin: (catalogue) => {
      const set = firstValue(settable(catalogue, 'company')[0]);
      return set && { do: 'set company field', ...set };
    },
    Parts: SetField,
  },
  'clear field': {
    words: 'clear field',
    begin: (catalogue, of) => {
      const field = settable(catalogue, of)[0];
      return field && { do: 'clear field', field: field.id };
    },
    Parts: ({ action, name, of, catalogue, onChange }) => (
      <Pick
        label={`Field of ${name}`}
        value={action.field}
        choices={settable(catalogue, of)}
        onPick={(field) => onChange({ ...action, field })}
      />
    ),
  },
  'increase field': {
    words: 'increase field',
    begin: (catalogue, of) => {
      const field = numbers(catalogue, of)[0];
      return field && { do: 'increase field', field: field.id, by: 1 };
    },
    Parts: ({ action, name, of, catalogue, onChange }) => (
      <>
        <Pick
          label={`Field of ${name}`}
          value={action.field}
          choices={numbers(catalogue, of)}
          onPick={(field) => onChange({ ...action, field })}
        />
        <span className="quiet">by</span>
        <GivenOrDetail name={name} value={action.by} numeric onChange={(by) => onChange({ ...action, by: by as number })} />
      </>
    ),
  },
  'put on list': {
    words: 'put on list',
    begin: (catalogue, of) => {
      const list = lists(catalogue, of)[0];
      return list && { do: 'put on list', audience: list.id };
    },
    Parts: OnList,
  },
  'take off list': {
    words: 'take off list',
    begin: (catalogue, of) => {
      const list = lists(catalogue, of)[0];
      return list && { do: 'take off list', audience: list.id };
    },
    Parts: OnList,
  },
  'give points': {
    words: 'give points',
    begin: (catalogue) => {
      const card = cards(catalogue)[0];
      return card && { do: 'give points', scorecard: card.id, points: 5, keeps: 'forever' };
    },
    Parts: ({ action, name, catalogue, onChange }) => (
      <>
        <NumberInput label={`Points of ${name}`} value={action.points} onChange={(points) => onChange({ ...action, points })} />
        <span className="quiet">of</span>
        <Pick
          label={`Scorecard of ${name}`}
          value={action.scorecard}
          choices={cards(catalogue)}
          onPick={(scorecard) => onChange({ ...action, scorecard })}
        />
        <KeepsInput value={action.keeps} onChange={(keeps) => onChange({ ...action, keeps })} />
      </>
    ),
  },
  'set stage': {
    words: 'set stage',
    companyWords: 'set the stage of its contacts',
    begin: (catalogue) => {
      const stage = catalogue.ladder()[0];
      return stage && { do: 'set stage', stage: stage.id };
    },
    Parts: ({ action, name, of, catalogue, onChange }) => (
      <>
        <Pick
          label={`Stage of ${name}`}
          value={action.stage}
          choices={catalogue.ladder()}
          onPick={(stage) => onChange({ ...action, stage })}
        />
        <Choice
          label={`Direction of ${name}`}
          value={action.backward ? 'both' : 'forward'}
          choices={[
            ['forward', 'forward only'],
            ['both', 'also backward'],
          ]}
          onPick={(way) => {
            const { backward: _backward, ...rest } = action;
            onChange(way === 'both' ? { ...rest, backward: true } : rest);
          }}
        />
        {of === 'contact' && catalogue.body('stage', action.stage)?.needs && (
          <label className="inline-flex items-baseline gap-1.5">
            <span className="quiet">where what it needs is missing, make the task</span>
            <TextInput
              label={`Task for what is missing, of ${name}`}
              value={action.ask ?? ''}
              onChange={(ask) => {
                const { ask: _ask, ...rest } = action;
                onChange(ask === '' ? rest : { ...rest, ask });
              }}
            />
          </label>
        )}
      </>
    ),
  },
  'assign owner': {
    words: 'assign owner',
    companyWords: 'assign an owner to its contacts',
    begin: (catalogue, of) => {
      const routing = catalogue.all('routing')[0];
      return routing && of === 'contact' ? { do: 'assign owner', routing: routing.id } : { do: 'assign owner', owner: '' };
    },
    Parts: AssignOwner,
  },
  'make task': {
    words: 'make task',
    begin: () => ({ do: 'make task', title: 'Get in touch', dueDays: 0 }),
    Parts: ({ action, name, of, onChange }) => (
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
          placeholder={nobody(of)}
          onChange={(to) => onChange(withOr(action, 'for', to))}
        />
      </>
    ),
  },
  notify: {
    words: 'notify',
    begin: (_catalogue, of) => ({ do: 'notify', text: `Have a look at this ${of}` }),
    Parts: ({ action, name, of, onChange }) => (
      <>
        <TextInput label={`Text of ${name}`} value={action.text} onChange={(text) => onChange({ ...action, text })} />
        <span className="quiet">to</span>
        <PersonInput
          label={`Person of ${name}`}
          value={action.to ?? ''}
          placeholder={nobody(of)}
          onChange={(to) => onChange(withOr(action, 'to', to))}
        />
      </>
    ),
  },
  'run bundle': {
    words: 'run bundle',
    begin: (catalogue) => {
      const bundle = catalogue.all('bundle')[0];
      return bundle && { do: 'run bundle', bundle: bundle.id };
    },
    Parts: ({ action, name, catalogue, onChange }) => (
      <Pick
        label={`Bundle of ${name}`}
        value={action.bundle}
        choices={catalogue.all('bundle')}
        onPick={(bundle) => onChange({ ...action, bundle })}
      />
    ),
  },
};

const editorOf = (kind: Do): Editor<RuleAction> => EDITORS[kind] as unknown as Editor<RuleAction>;

/** What an action does it with, as inputs of its kind. */
export function ActionParts(props: PartsProps) {
  const { action, of, catalogue, onChange } = props;
  const { Parts } = editorOf(action.do);
  if (of !== 'company' || !isToPeople(action, catalogue)) return <Parts {...props} />;
  const { parts } = action;
  return (
    <>
      <Parts {...props} onChange={(next) => onChange(parts && isToPeople(next, catalogue) ? { ...next, parts } : next)} />
      <WhichContacts {...props} action={action} />
    </>
  );
}

/** An action to begin with, where there is what it needs. */
export const begun = (kind: Do, catalogue: Catalogue, of: RuleSubject = 'contact'): RuleAction | undefined =>
  editorOf(kind).begin(catalogue, of);

export const doWords = (kind: Do, of: RuleSubject): string =>
  (of === 'company' ? editorOf(kind).companyWords : undefined) ?? editorOf(kind).words;

/** What a rule can do, of what there is something for. */
export const kindsFor = (catalogue: Catalogue, of: RuleSubject): readonly Do[] => {
  const possible = actionsFor(of);
  return (Object.keys(EDITORS) as Do[]).filter((kind) => possible.includes(kind) && begun(kind, catalogue, of) !== undefined);
};
