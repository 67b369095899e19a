import { saidOfThem } from '../conditions/describe/said/sentences.ts';
import { happensSaid } from '../conditions/describe/said/signals.ts';
import { listed } from '../conditions/describe/said/values.ts';
import { isGroup, type Condition } from '../conditions/schema.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { actionWords } from './action-kinds.ts';
import { type RuleBody, type RuleSubject } from './definition.ts';
import { sweepTimesWords } from './sweeps.ts';

/** A rule as one faithful sentence: when, if, then and how often, nothing left out. */
export function ruleSentence(rule: RuleBody, catalogue: Catalogue): string {
  const everyone = rule.of === 'company' ? ', for every company' : ', for everyone';
  const condition =
    rule.if && !isEmpty(rule.if)
      ? `${rule.when.kind === 'sweep' ? ', where' : ' and'} ${saidOfThem(rule.if, catalogue, rule.of)}`
      : rule.when.kind === 'sweep'
        ? everyone
        : '';
  const actions = listed(
    rule.then.map((action) => actionWords(action, catalogue, rule.of)),
    'and',
  );
  return `${whenWords(rule.when, catalogue, rule.of)}${condition}, ${actions}. ${capital(oftenWords(rule.howOften, rule.of))}.`;
}

const isEmpty = (condition: Condition): boolean => isGroup(condition) && condition.match === 'all' && condition.of.length === 0;

/** What sets a rule off. */
export function whenWords(when: RuleBody['when'], catalogue: Catalogue, of: RuleSubject = 'contact'): string {
  switch (when.kind) {
    case 'signal':
      return `When somebody ${happensSaid(when.type, when.where, catalogue)}`;
    case 'becomes':
      return isEmpty(when.condition)
        ? `As soon as a ${of} is there`
        : `As soon as ${ofNobodyYet(saidOfThem(when.condition, catalogue, of), of)}`;
    case 'sweep':
      return when.times ? sweepTimesWords(when.times) : 'Whenever it is run';
    case 'date':
      return `${dateWords(when, catalogue)}, at ${String(when.hour).padStart(2, '0')}:00`;
  }
}

/** A company is named where it comes first: `a company's seats is at least 50`. */
const ofNobodyYet = (text: string, of: RuleSubject): string =>
  of === 'company' ? text.replace(/^its\b/, "a company's").replace(/^it\b(?! is not so)/, 'a company') : text;

function dateWords(when: Extract<RuleBody['when'], { kind: 'date' }>, catalogue: Catalogue): string {
  const date =
    when.field === undefined
      ? `the date of tag ${catalogue.get('tag', when.tag ?? -1)?.key ?? '…'}`
      : (catalogue.get('field', when.field)?.name ?? '…');
  const days = Math.abs(when.days) === 1 ? 'a day' : `${Math.abs(when.days)} days`;
  const place = when.days === 0 ? 'On' : `${capital(days)} ${when.days > 0 ? 'after' : 'before'}`;
  return `${place} ${when.yearly ? 'every anniversary of ' : ''}${date}`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** How often a rule may run for one contact or company. */
export function oftenWords({ limit, pauseDays }: RuleBody['howOften'], of: RuleSubject = 'contact'): string {
  const limited = limit === undefined ? '' : limit === 1 ? `once per ${of}` : `at most ${limit} times per ${of}`;
  const paused = pauseDays === undefined ? '' : `not again within ${pauseDays === 1 ? 'a day' : `${pauseDays} days`}`;
  return [limited, paused].filter(Boolean).join(', ') || 'every time';
}
