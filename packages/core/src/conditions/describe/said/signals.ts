import { pathWords } from '../../../intake/signal-types.ts';
import { type Catalogue } from '../../../settings/catalogue.ts';
import { type SignalTypeId } from '../../../settings/ids.ts';
import { participleOf, presentOf } from '../../../text/verbs.ts';
import { type Window } from '../../../time/window.ts';
import { type Count, type LeafOf, type SignalTypes } from '../../schema.ts';
import { durationWords } from '../../words.ts';
import { nameSaid } from '../names.ts';
import { slot, partsOf, type Part } from '../part.ts';
import { limitWords } from '../windows.ts';
import { objectSaid, type Forms, type Said } from './details.ts';
import { isAny, isNone, listed, numberText, timesSaid, windowSaid } from './values.ts';

/** Whom it is said of. */
export type Grammatical = 'one' | 'many' | 'company' | 'companies';
export const isOne = (number: Grammatical): boolean => number === 'one' || number === 'company';

/** The forms of the verb of a type of signal: its own words where it has some. */
const formsOf =
  (catalogue: Catalogue, type: number | undefined): Forms =>
  (verb) => {
    const present = type === undefined ? undefined : catalogue.body('signalType', type as SignalTypeId)?.present;
    return {
      participle: behindHas(catalogue, type)(verb),
      present: present === undefined ? presentOf(verb) : verb.replace(/^\S+/, present),
    };
  };

/** What a type of signal says behind "has", by its own word where it has one. */
export const behindHas =
  (catalogue: Catalogue, type: number | undefined) =>
  (verb: string): string => {
    const own = type === undefined ? undefined : catalogue.body('signalType', type as SignalTypeId)?.participle;
    return own === undefined ? participleOf(verb) : verb.replace(/^\S+/, own);
  };

const words = (...parts: readonly string[]): string => parts.filter(Boolean).join(' ');
export const has = (number: Grammatical): string => (isOne(number) ? 'has' : 'have');

const rest = (text: string): Part => slot(text);
const when = (window: Window | undefined): Part => slot(windowSaid(window));

/** How often, and whether at all, something was done. */
export function done(
  what: Said,
  count: Count | undefined,
  within: Window | undefined,
  number: Grammatical,
  isPerfect = false,
): readonly Part[] {
  const { verb } = what;
  if (isNone(count)) {
    const never = windowSaid(within) === '' ? 'never' : 'not';
    return partsOf(has(number), slot(never), slot(what.participle), rest(what.rest), when(within));
  }
  const did = slot(isPerfect ? words(has(number), what.participle) : isOne(number) ? verb : verb.replace(/^was\b/, 'were'));
  if (count === undefined || isAny(count)) return partsOf(did, rest(what.rest), when(within));
  // Many words before stand better apart from how often.
  const comma = /\b(whose|with)\b/.test(what.rest) ? ',' : '';
  return partsOf(did, rest(`${what.rest}${comma}`), slot(timesSaid(count)), when(within));
}

/** What nobody did, of all that they could do. */
export const NOTHING = { 'from them': 'did nothing', 'from us': 'heard nothing from us' } as const;
export const ANYTHING = { 'from them': 'did anything', 'from us': 'heard from us' } as const;

function whatOf(type: SignalTypes, where: LeafOf<'signal'>['where'], catalogue: Catalogue): Said {
  const verb =
    type === 'from them' || type === 'from us'
      ? ANYTHING[type]
      : listed(
          [type].flat().map((id) => nameSaid(catalogue, 'signalType', id)),
          'or',
        );
  const fields = catalogue.detailsOf(catalogue.signalTypes(type));
  const first = typeof type === 'string' ? undefined : [type].flat()[0];
  return objectSaid(verb, typeof type === 'number', formsOf(catalogue, first), { where: where ?? [], fields, catalogue });
}

/** Something that happens: `orders an item whose line is glaze` */
export function happensSaid(type: SignalTypeId, where: LeafOf<'signal'>['where'], catalogue: Catalogue): string {
  const { present, rest } = whatOf(type, where, catalogue);
  return words(present, rest);
}

/** @param isPerfect whether it is said as what has happened by now, as behind “as soon as they”: `have ordered` */
export function signalSaid(leaf: LeafOf<'signal'>, catalogue: Catalogue, number: Grammatical, isPerfect = false): readonly Part[] {
  const what = whatOf(leaf.type, leaf.where, catalogue);
  const then = slot(leaf.then ? thenSaid(leaf.then, catalogue) : '');
  const did = done(what, undefined, undefined, number, isPerfect);
  if (leaf.pick) return partsOf(...did, then, slot(`, the ${leaf.pick} time`), slot(comma(windowSaid(leaf.within))));
  const spent = isPerfect ? `${has(number)} spent` : 'spent';
  if (leaf.sum) return partsOf(...sumSaid(leaf, leaf.sum, what, { did, spent }, catalogue), when(leaf.within), then);
  if (leaf.days) {
    const days = `on ${limitWords(leaf.days)} ${leaf.days.value === 1 ? 'day' : 'days'}`;
    return partsOf(...did, slot(days), when(leaf.within), then);
  }
  if (!isNone(leaf.count)) return partsOf(...done(what, leaf.count, leaf.within, number, isPerfect), then);
  const isPlain = what.rest === '' && then.text === '' && windowSaid(leaf.within) !== '';
  if (isPlain && (leaf.type === 'from them' || leaf.type === 'from us')) {
    const nothing = NOTHING[leaf.type];
    return partsOf(slot(isPerfect ? words(has(number), participleOf(nothing)) : nothing), when(leaf.within));
  }
  return done({ ...what, rest: words(what.rest, then.text) }, leaf.count, leaf.within, number);
}

/** A text that stands apart from what was said before. */
const comma = (text: string): string => (text === '' ? '' : `, ${text}`);

function sumSaid(
  leaf: LeafOf<'signal'>,
  sum: NonNullable<LeafOf<'signal'>['sum']>,
  what: Said,
  { did, spent }: { readonly did: readonly Part[]; readonly spent: string },
  catalogue: Catalogue,
): readonly Part[] {
  const [first, ...inner] = sum.path.split('.');
  const fields = catalogue.detailsOf(catalogue.signalTypes(leaf.type));
  const field = fields.find(({ key }) => key === first);
  const isMoney = (inner.length > 0 ? field?.of?.find(({ key }) => key === inner[0]) : field)?.type === 'money';
  const much = `${limitWords({ op: sum.op, value: [sum.value].flat().map(numberText) })}${isMoney ? ` ${catalogue.workspace.currency}` : ''}`;
  if (what.verb === 'ordered' && what.rest === '' && sum.path === 'amount') return partsOf(spent, slot(much));
  return partsOf(...did, slot(`, with a total ${pathWords(sum.path, fields)} of ${much}`));
}

function thenSaid(then: NonNullable<LeafOf<'signal'>['then']>, catalogue: Catalogue): string {
  const what = whatOf(then.type, then.where, catalogue);
  const soon = then.within ? `within ${durationWords(then.within)}` : '';
  return then.happens ? words('and then', what.verb, what.rest, soon) : words('and had not', what.participle, what.rest, soon || 'since');
}
