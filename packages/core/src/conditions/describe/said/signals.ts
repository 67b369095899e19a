import { type Catalogue } from '../../../settings/catalogue.ts';
import { type Window } from '../../../time/window.ts';
import { type Count, type LeafOf, type SignalTypes } from '../../schema.ts';
import { durationWords } from '../../words.ts';
import { limitWords } from '../windows.ts';
import { objectSaid, type Said } from './details.ts';
import { isAny, isNone, listed, numberText, timesSaid, windowSaid } from './values.ts';

/** How many it is said of. */
export type Grammatical = 'one' | 'many' | 'companies';

/** Verbs whose participle is not their past. */
const PARTICIPLES: ReadonlyMap<string, string> = new Map(
  `was been, were been, wrote written, gave given, withdrew withdrawn, took taken, began begun, went gone, saw seen, came come, did done, chose chosen,
   spoke spoken, ran run, became become, drove driven`
    .split(',')
    .map((pair) => pair.trim().split(' ') as [string, string]),
);
const participle = (verb: string): string => verb.replace(/^\S+/, (first) => PARTICIPLES.get(first) ?? first);

const said = (...parts: readonly string[]): string => parts.filter(Boolean).join(' ');
export const has = (number: Grammatical): string => (number === 'one' ? 'has' : 'have');

/** How often, and whether at all, something was done. */
export function done({ verb, rest }: Said, count: Count | undefined, within: Window | undefined, number: Grammatical): string {
  const when = windowSaid(within);
  if (isNone(count))
    return when === '' ? said(has(number), 'never', participle(verb), rest) : said(has(number), 'not', participle(verb), rest, when);
  const did = said(number === 'one' ? verb : verb.replace(/^was\b/, 'were'), rest);
  if (count === undefined || isAny(count)) return said(did, when);
  // Many words before stand better apart from how often.
  return said(/\b(whose|with)\b/.test(rest) ? `${did},` : did, timesSaid(count), when);
}

/** What nobody did, of all that they could do. */
const NOTHING = { 'from them': 'did nothing', 'from us': 'heard nothing from us' } as const;
const ANYTHING = { 'from them': 'did anything', 'from us': 'heard from us' } as const;

function whatOf(type: SignalTypes, where: LeafOf<'signal'>['where'], catalogue: Catalogue): Said {
  const verb =
    type === 'from them' || type === 'from us'
      ? ANYTHING[type]
      : listed(
          [type].flat().map((id) => catalogue.body('signalType', id)?.verb ?? '(gone)'),
          'or',
        );
  const fields = catalogue.detailsOf(catalogue.signalTypes(type));
  return objectSaid(verb, typeof type === 'number', { where: where ?? [], fields, catalogue });
}

export function signalSaid(leaf: LeafOf<'signal'>, catalogue: Catalogue, number: Grammatical): string {
  const what = whatOf(leaf.type, leaf.where, catalogue);
  const then = leaf.then ? thenSaid(leaf.then, catalogue) : '';
  const when = windowSaid(leaf.within);
  if (leaf.pick) return said(`${said(done(what, undefined, undefined, number), then)}, the ${leaf.pick} time${when ? ',' : ''}`, when);
  if (leaf.sum) return said(sumSaid(leaf, leaf.sum, what, catalogue, number), when, then);
  if (leaf.days)
    return said(done(what, undefined, undefined, number), 'on', limitWords(leaf.days), leaf.days.value === 1 ? 'day' : 'days', when, then);
  if (!isNone(leaf.count)) return said(done(what, leaf.count, leaf.within, number), then);
  const isPlain = what.rest === '' && then === '' && when !== '';
  if (isPlain && (leaf.type === 'from them' || leaf.type === 'from us')) return said(NOTHING[leaf.type], when);
  return done({ ...what, rest: said(what.rest, then) }, leaf.count, leaf.within, number);
}

function sumSaid(
  leaf: LeafOf<'signal'>,
  sum: NonNullable<LeafOf<'signal'>['sum']>,
  what: Said,
  catalogue: Catalogue,
  number: Grammatical,
): string {
  const [first, ...inner] = sum.path.split('.');
  const fields = catalogue.detailsOf(catalogue.signalTypes(leaf.type));
  const field = fields.find(({ key }) => key === first);
  const isMoney = (inner.length > 0 ? field?.of?.find(({ key }) => key === inner[0]) : field)?.type === 'money';
  const much = `${limitWords({ op: sum.op, value: [sum.value].flat().map(numberText) })}${isMoney ? ` ${catalogue.workspace.currency}` : ''}`;
  if (what.verb === 'ordered' && what.rest === '' && sum.path === 'amount') return `spent ${much}`;
  return `${done(what, undefined, undefined, number)}, with a total ${sum.path.split('.').reverse().join(' of ')} of ${much}`;
}

function thenSaid(then: NonNullable<LeafOf<'signal'>['then']>, catalogue: Catalogue): string {
  const { verb, rest } = whatOf(then.type, then.where, catalogue);
  const soon = then.within ? `within ${durationWords(then.within)}` : '';
  return then.happens ? said('and then', verb, rest, soon) : said('and had not', participle(verb), rest, soon || 'since');
}
