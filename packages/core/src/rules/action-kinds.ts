import { pathWords } from '../intake/signal-types.ts';
import { readFact } from '../contacts/facts.ts';
import { listed } from '../conditions/describe/said/values.ts';
import { choicesOf, PART, storageOf, type FieldOption } from '../contacts/fields.ts';
import { keepsWords } from '../scores/words.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { readTagValue } from '../tags/values.ts';
import { readInstant } from '../time/zone.ts';
import { type ActionOf, type RuleAction, type RuleSubject } from './definition.ts';

/** A part of an action that does not fit, and what would. */
export interface Misfit {
  readonly property: string;
  readonly expected: string;
}

interface ActionKind<Action extends RuleAction> {
  /** for whose rules it is */
  readonly of: readonly RuleSubject[];
  /** @param of whose rule it is */
  readonly misfit: (action: Action, of: RuleSubject, catalogue: Catalogue) => Misfit | undefined;
  /** it as a part of a sentence: “add the tag glaze.buyer” */
  readonly words: (action: Action, of: RuleSubject, catalogue: Catalogue) => string;
}

const CONTACTS: readonly RuleSubject[] = ['contact'];
const BOTH: readonly RuleSubject[] = ['contact', 'company'];
const always = (): undefined => undefined;

type ActionValue = ActionOf<'set field'>['value'];
const isDetail = (value: unknown): value is { readonly detail: string } => typeof value === 'object' && value !== null && 'detail' in value;

/** Whether a field belongs to the subject and takes a fixed value. A value from a signal is checked when it arrives. */
function fieldMisfit(field: number, of: RuleSubject, catalogue: Catalogue, value?: ActionValue): Misfit | undefined {
  const body = catalogue.body('field', field);
  if (body?.of !== of) return { property: 'field', expected: of === 'company' ? 'a field of companies' : 'a field of contacts' };
  if (value === undefined || isDetail(value)) return undefined;
  const read = readFact(body, value, catalogue.workspace);
  if (read.ok && read.value === undefined) return { property: 'value', expected: 'a value; what empties a field is “clear field”' };
  return read.ok ? undefined : { property: 'value', expected: read.faults[0]?.expected ?? 'a value of the field' };
}

function listMisfit(action: ToPeople & { readonly audience: number }, of: RuleSubject, catalogue: Catalogue): Misfit | undefined {
  const body = catalogue.body('audience', action.audience);
  if (body?.kind !== 'fixed') return { property: 'audience', expected: 'a fixed list: a live audience keeps itself' };
  if (body.of !== 'company') return partsMisfit(action, of, catalogue);
  if (of === 'contact') return { property: 'audience', expected: 'a list of people' };
  return action.parts === undefined ? undefined : { property: 'parts', expected: 'no parts: it is a list of companies' };
}

const named = (kind: DefinitionKind, id: number | undefined, catalogue: Catalogue): string => catalogue.get(kind, id ?? -1)?.name ?? '…';
const tagKey = (tag: number, catalogue: Catalogue): string => catalogue.get('tag', tag)?.key ?? '…';

/** The part of an action that is done to people. */
type ToPeople = { readonly parts?: readonly string[] | undefined };

/** Only a rule for companies says for whom of several contacts it is. */
function partsMisfit({ parts }: ToPeople, of: RuleSubject, catalogue: Catalogue): Misfit | undefined {
  if (parts === undefined) return undefined;
  if (of === 'contact') return { property: 'parts', expected: 'no parts: it is for one contact' };
  const known = partsOf(catalogue).map(({ key }) => key);
  return parts.every((part) => known.includes(part)) ? undefined : { property: 'parts', expected: `one of ${known.join(', ')}` };
}

/** `its contacts`, `its contacts whose part is decider or buyer` */
export function contactsWords(parts: readonly string[] | undefined, catalogue: Catalogue): string {
  if (parts === undefined) return 'its contacts';
  const names = parts.map((part) => partsOf(catalogue).find(({ key }) => key === part)?.name ?? part);
  return `its contacts whose part is ${listed(names, 'or')}`;
}

/** Who is meant, after such a word as `to`; nothing where it is the contact itself. */
const toWhom = (word: string, { parts }: ToPeople, of: RuleSubject, catalogue: Catalogue): string =>
  of === 'contact' ? '' : ` ${word} ${contactsWords(parts, catalogue)}`;

/** What a detail is called by the first type of signals that has it. */
function detailWords(path: string, catalogue: Catalogue): string {
  const [first] = path.split('.');
  const type = catalogue.all('signalType').find(({ body }) => body.fields.some(({ key }) => key === first));
  return pathWords(path, type?.body.fields ?? []);
}

/** Whether a tag carries a value like the one given. A value from a signal is checked when it arrives. */
function tagMisfit(tag: number, value: ActionValue, catalogue: Catalogue): Misfit | undefined {
  const kept = catalogue.body('tag', tag)?.value;
  if (kept === undefined) return { property: 'value', expected: 'no value: this tag carries none' };
  if (isDetail(value) || (kept === 'date' && typeof value === 'string' && readInstant(value, catalogue.zone) !== undefined))
    return undefined;
  const read = readTagValue(kept, value);
  return read.ok ? undefined : { property: 'value', expected: read.faults[0]?.expected ?? 'a value of the tag' };
}

/** A fixed value in words, or where in the signal it is found. */
const valueWords = (value: unknown, catalogue: Catalogue): string =>
  isDetail(value)
    ? `the signal's ${detailWords(value.detail, catalogue)}`
    : Array.isArray(value)
      ? value.map(String).join(', ')
      : String(value);

/** A value of a field; an option by its name. */
function optionWords(field: number, value: unknown, catalogue: Catalogue): string {
  const options = catalogue.body('field', field)?.options ?? [];
  if (typeof value !== 'string' && !Array.isArray(value)) return valueWords(value, catalogue);
  return [value]
    .flat()
    .map((one) => options.find((option) => option.key === one)?.name ?? String(one))
    .join(', ');
}

/** A rule for companies puts the company itself on a list of companies, and its contacts on a list of people. */
function whoOfList({ audience, parts }: ToPeople & { readonly audience: number }, of: RuleSubject, catalogue: Catalogue): string {
  if (of === 'contact') return '';
  return catalogue.body('audience', audience)?.of === 'company' ? 'it ' : `${contactsWords(parts, catalogue)} `;
}

/** For each action: for whose rules it is, how its references are checked, and its words. */
export const ACTION_KINDS: { readonly [Do in RuleAction['do']]: ActionKind<ActionOf<Do>> } = {
  'add tag': {
    of: BOTH,
    misfit: (action, of, catalogue) =>
      (action.value === undefined ? undefined : tagMisfit(action.tag, action.value, catalogue)) ?? partsMisfit(action, of, catalogue),
    words: (action, of, catalogue) =>
      `add the tag ${tagKey(action.tag, catalogue)}${action.value === undefined ? '' : ` valued ${valueWords(action.value, catalogue)}`}${toWhom('to', action, of, catalogue)}`,
  },
  'remove tag': {
    of: BOTH,
    misfit: partsMisfit,
    words: (action, of, catalogue) =>
      `remove the tag ${tagKey(action.tag, catalogue)}${toWhom('from', action, of, catalogue)}${action.only ? ' where this rule gave it' : ''}`,
  },
  'set field': {
    of: BOTH,
    misfit: (action, of, catalogue) => fieldMisfit(action.field, 'contact', catalogue, action.value) ?? partsMisfit(action, of, catalogue),
    words: (action, of, catalogue) =>
      `set ${named('field', action.field, catalogue)}${toWhom('of', action, of, catalogue)} to ${optionWords(action.field, action.value, catalogue)}`,
  },
  'set company field': {
    of: BOTH,
    misfit: ({ field, value }, _of, catalogue) => fieldMisfit(field, 'company', catalogue, value),
    words: ({ field, value }, of, catalogue) =>
      `set ${of === 'company' ? '' : "the company's "}${named('field', field, catalogue)} to ${optionWords(field, value, catalogue)}`,
  },
  'clear field': {
    of: BOTH,
    misfit: ({ field }, of, catalogue) => fieldMisfit(field, of, catalogue),
    words: ({ field }, _of, catalogue) => `clear ${named('field', field, catalogue)}`,
  },
  'increase field': {
    of: BOTH,
    misfit: ({ field }, of, catalogue) => {
      const type = catalogue.body('field', field)?.type;
      return (
        fieldMisfit(field, of, catalogue) ??
        (type && storageOf[type] !== 'number' ? { property: 'field', expected: 'a field of numbers or money' } : undefined)
      );
    },
    words: ({ field, by }, _of, catalogue) => `increase ${named('field', field, catalogue)} by ${valueWords(by, catalogue)}`,
  },
  'put on list': {
    of: BOTH,
    misfit: listMisfit,
    words: (action, of, catalogue) => `put ${whoOfList(action, of, catalogue)}on the list ${named('audience', action.audience, catalogue)}`,
  },
  'take off list': {
    of: BOTH,
    misfit: listMisfit,
    words: (action, of, catalogue) =>
      `take ${whoOfList(action, of, catalogue)}off the list ${named('audience', action.audience, catalogue)}`,
  },
  'give points': {
    of: CONTACTS,
    misfit: ({ scorecard }, _of, catalogue) =>
      catalogue.body('scorecard', scorecard)?.of === 'contact' ? undefined : { property: 'scorecard', expected: 'a scorecard of contacts' },
    words: ({ scorecard, points, keeps }, _of, catalogue) =>
      `give ${points} points of ${named('scorecard', scorecard, catalogue)}, ${keepsWords(keeps)}`,
  },
  'set stage': {
    of: BOTH,
    misfit: (action, of, catalogue) =>
      of === 'company' && action.ask !== undefined
        ? { property: 'ask', expected: 'no task: the rule is for companies' }
        : partsMisfit(action, of, catalogue),
    words: (action, of, catalogue) =>
      `set the stage${toWhom('of', action, of, catalogue)} to ${named('stage', action.stage, catalogue)}${action.backward ? ', also backward' : ''}${action.ask === undefined ? '' : ` (where something it needs is missing, make the task “${action.ask}”)`}`,
  },
  'assign owner': {
    of: BOTH,
    misfit: (action, of, catalogue) =>
      of === 'company' && action.routing !== undefined
        ? { property: 'routing', expected: 'an owner: the rule is for companies' }
        : partsMisfit(action, of, catalogue),
    words: (action, of, catalogue) =>
      `assign owner ${action.owner ?? `by ${named('routing', action.routing, catalogue)}`}${toWhom('to', action, of, catalogue)}${action.replace ? ', also where there is one' : ''}`,
  },
  'make task': {
    of: BOTH,
    misfit: always,
    words: ({ title, dueDays, for: whom }) => {
      const due = dueDays === 0 ? 'due today' : `due in ${dueDays === 1 ? 'a day' : `${dueDays} days`}`;
      return `make the task “${title}”, ${due}${whom ? `, for ${whom}` : ''}`;
    },
  },
  notify: {
    of: BOTH,
    misfit: always,
    words: ({ text, to }, of) => `notify ${to ?? (of === 'company' ? 'everyone here' : 'whoever minds the contact')}: “${text}”`,
  },
  'run bundle': {
    of: CONTACTS,
    misfit: always,
    words: ({ bundle }, _of, catalogue) => `run ${named('bundle', bundle, catalogue)}`,
  },
};

/** What is known of an action whose kind nobody has asked for. */
export const kindOfAction = ({ do: kind }: RuleAction): ActionKind<RuleAction> => ACTION_KINDS[kind] as ActionKind<RuleAction>;

type PeopleAction = Extract<RuleAction, { readonly parts?: readonly string[] | undefined }>;
/** Whether it is done to people: by a rule for companies, to the contacts of the company. */
export const isToPeople = (action: RuleAction, catalogue: Catalogue): action is PeopleAction =>
  TO_PEOPLE.has(action.do) && !('audience' in action && catalogue.body('audience', action.audience)?.of === 'company');
const TO_PEOPLE: ReadonlySet<RuleAction['do']> = new Set([
  ...(['add tag', 'remove tag', 'set field', 'put on list', 'take off list', 'set stage', 'assign owner'] satisfies PeopleAction['do'][]),
]);
/** The parts in a purchase that a contact can have. */
export const partsOf = (catalogue: Catalogue): readonly FieldOption[] =>
  choicesOf({ options: catalogue.find('field', PART)?.body.options ?? [] });

/** The actions that are for somebody's rules. */
export const actionsFor = (of: RuleSubject): readonly RuleAction['do'][] =>
  (Object.keys(ACTION_KINDS) as RuleAction['do'][]).filter((kind) => ACTION_KINDS[kind].of.includes(of));

/** One thing that a rule does. */
export const actionWords = (action: RuleAction, catalogue: Catalogue, of: RuleSubject = 'contact'): string =>
  kindOfAction(action).words(action, of, catalogue);
