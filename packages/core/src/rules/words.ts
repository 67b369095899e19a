import { describe } from '../conditions/describe/describe.ts';
import { whereParts } from '../conditions/describe/tests.ts';
import { type Condition } from '../conditions/schema.ts';
import { keepsWords } from '../scores/words.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type RuleAction, type RuleBody, type RuleSubject } from './definition.ts';

/** A rule as one faithful sentence: when, if, then and how often, nothing left out. */
export function ruleSentence(rule: RuleBody, catalogue: Catalogue): string {
  const condition = rule.if ? `, and if ${conditionWords(rule.if, catalogue)}` : '';
  const actions = rule.then.map((action) => actionWords(action, catalogue, rule.of)).join(', ');
  return `${whenWords(rule.when, catalogue, rule.of)}${condition}: ${actions}. ${capital(oftenWords(rule.howOften, rule.of))}.`;
}

/** What sets a rule off. */
export function whenWords(when: RuleBody['when'], catalogue: Catalogue, of: RuleSubject = 'contact'): string {
  switch (when.kind) {
    case 'signal': {
      const where = whereParts(when.where ?? [], catalogue.detailsOf([when.type])).map((part) => part.text);
      return ['When a contact', catalogue.body('signalType', when.type)?.verb ?? '…', ...where].join(' ');
    }
    case 'becomes':
      return `When this becomes true of a ${of}: ${conditionWords(when.condition, catalogue)}`;
    case 'date':
      return `${dateWords(when, catalogue)}, at ${String(when.hour).padStart(2, '0')}:00`;
  }
}

function dateWords(when: Extract<RuleBody['when'], { kind: 'date' }>, catalogue: Catalogue): string {
  const date =
    when.field === undefined
      ? `the date of tag ${catalogue.get('tag', when.tag ?? -1)?.key ?? '…'}`
      : (catalogue.get('field', when.field)?.name ?? '…');
  const days = Math.abs(when.days) === 1 ? 'a day' : `${Math.abs(when.days)} days`;
  const place = when.days === 0 ? 'On' : `${capital(days)} ${when.days > 0 ? 'after' : 'before'}`;
  return `${place} ${when.yearly ? 'every anniversary of ' : ''}${date}`;
}

/** A condition inside a sentence of a rule. */
function conditionWords(condition: Condition, catalogue: Catalogue): string {
  const words = describe(condition, catalogue, '')
    .replace(/^ for whom this holds: /, '')
    .replace(/\.$/, '');
  return words === 'Everyone' ? 'anything' : words;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** A value as it is written down, or where in the signal it stands. */
const valueWords = (value: unknown): string =>
  typeof value === 'object' && value !== null && 'detail' in value
    ? `the signal's ${String((value as { detail: string }).detail)}`
    : Array.isArray(value)
      ? value.map(String).join(', ')
      : String(value);

/** One thing that a rule does. */
export function actionWords(action: RuleAction, catalogue: Catalogue, of: RuleSubject = 'contact'): string {
  const ofCompany = of === 'company';
  const field = (id: number): string => catalogue.get('field', id)?.name ?? '…';
  const named = (kind: 'audience' | 'scorecard' | 'stage' | 'routing' | 'bundle', id: number): string =>
    catalogue.get(kind, id)?.name ?? '…';
  switch (action.do) {
    case 'add tag': {
      const value = action.value === undefined ? '' : ` valued ${valueWords(action.value)}`;
      return `add tag ${catalogue.get('tag', action.tag)?.key ?? '…'}${value}`;
    }
    case 'remove tag':
      return `remove tag ${catalogue.get('tag', action.tag)?.key ?? '…'}${action.only ? ' where this rule gave it' : ''}`;
    case 'set field':
      return `set ${field(action.field)} to ${optionWords(action.field, action.value, catalogue)}`;
    case 'clear field':
      return `clear ${field(action.field)}`;
    case 'increase field':
      return `increase ${field(action.field)} by ${valueWords(action.by)}`;
    case 'put on list':
      return `put ${ofCompany ? 'its contacts ' : ''}on the list ${named('audience', action.audience)}`;
    case 'take off list':
      return `take ${ofCompany ? 'its contacts ' : ''}off the list ${named('audience', action.audience)}`;
    case 'give points':
      return `give ${action.points} points of ${named('scorecard', action.scorecard)}, ${keepsWords(action.keeps)}`;
    case 'set stage':
      return `set the stage to ${named('stage', action.stage)}${action.backward ? ', also backward' : ''}`;
    case 'set company field':
      return `set ${ofCompany ? '' : "the company's "}${field(action.field)} to ${optionWords(action.field, action.value, catalogue)}`;
    case 'assign owner': {
      const to = action.owner ?? `by ${named('routing', action.routing ?? -1)}`;
      return `assign owner ${to}${action.replace ? ', also where there is one' : ''}`;
    }
    case 'make task': {
      const due = action.dueDays === 0 ? 'due today' : `due in ${action.dueDays === 1 ? 'a day' : `${action.dueDays} days`}`;
      return `make the task “${action.title}”, ${due}${action.for ? `, for ${action.for}` : ''}`;
    }
    case 'notify':
      return `notify ${action.to ?? (ofCompany ? 'everyone here' : 'whoever minds the contact')}: “${action.text}”`;
    case 'run bundle':
      return `run ${named('bundle', action.bundle)}`;
  }
}

/** A value of a field; an option by its name. */
function optionWords(id: number, value: unknown, catalogue: Catalogue): string {
  const options = catalogue.body('field', id)?.options ?? [];
  if (typeof value !== 'string' && !Array.isArray(value)) return valueWords(value);
  return [value]
    .flat()
    .map((one) => options.find((option) => option.key === one)?.name ?? String(one))
    .join(', ');
}

/** How often a rule may run for one contact or company. */
export function oftenWords({ limit, pauseDays }: RuleBody['howOften'], of: RuleSubject = 'contact'): string {
  const limited = limit === undefined ? '' : limit === 1 ? `once per ${of}` : `at most ${limit} times per ${of}`;
  const paused = pauseDays === undefined ? '' : `not again within ${pauseDays === 1 ? 'a day' : `${pauseDays} days`}`;
  return [limited, paused].filter(Boolean).join(', ') || 'every time';
}
