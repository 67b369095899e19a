import { type DetailField } from '../../../intake/signal-types.ts';
import { type DetailCondition, type SignalTypes } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf, type MeaningOf } from '../meanings.ts';
import { PREPOSITION } from '../names.ts';
import { type Segment } from '../segment.ts';
import { stem } from '../tokens.ts';
import { GENERAL_NOUNS } from '../words/language.ts';
import { answersIn } from './answers.ts';
import { detailIs, type Phrase } from './phrase.ts';

export const detailsOf = ({ catalogue }: Phrase, type: SignalTypes): readonly DetailField[] =>
  catalogue.detailsOf(catalogue.signalTypes(type));

export const withWhere = (where: DetailCondition[]): { where?: DetailCondition[] } => (where.length > 0 ? { where } : {});

/** Verbs behind which it is said what was done to what. */
const DONE_TO =
  /^(ordered|bought|buys?|purchased|paid|spent|visited|looked|viewed|saw|seen|browsed|downloaded|fetched|left|abandoned|walked|registered|signed|booked|enrolled|attended|attend|will|coming|be|been|turned|showed|placed|came|comes|went|won|joined|started|began|finished|completed|took|liked|shared|commented|missed|had|met|called|wrote)\b/i;

/** What follows the word of what happened, and what stands just before it: `glaze orders`, `ordered glaze`, `the glaze shelf email was opened` */
export function beside(own: readonly Chunk[], segment: Segment): readonly Chunk[] {
  const at = own.findIndex((chunk) => segment.isUsed(chunk) && (meaningOf(chunk, 'signal') || meaningOf(chunk, 'planEnd')));
  const before = own[at - 1]?.kind === 'not' ? own[at - 2] : own[at - 1];
  // `loyal customers`, `angry guests who ordered`: before a verb stands who did it, and not what it was done to.
  const behind = own.slice(at + 1).find(({ kind, text }) => kind !== 'filler' || PREPOSITION.test(text));
  const isDone = DONE_TO.test(own[at]?.text ?? '') || behind?.kind === 'free';
  if (before && !isDone && (before.kind === 'free' || meaningOf(before, 'family') || meaningOf(before, 'detail')))
    return own.slice(own.indexOf(before));
  const named = own
    .slice(0, at)
    .findLast((chunk) => chunk.kind !== 'filler' && chunk.kind !== 'not' && !GENERAL_NOUNS.has(stem(chunk.text)));
  return own.slice(named && (meaningOf(named, 'message') || meaningOf(named, 'form')) ? own.indexOf(named) : at);
}

const isMark = ({ cue }: Chunk): boolean => cue === 'product' || cue === 'line';
/** `glaze products`: those of the line, where `the product Celadon` is one. */
const isOfAKind = (own: readonly Chunk[], mark: Chunk): boolean =>
  /^products$/i.test(mark.text) && ['thing', 'free'].includes(own[own.indexOf(mark) - 1]?.kind ?? '');

/** What is known to stand in a detail of these signals: which of several details is meant is said, or the first that has it. */
function knownIn(
  phrase: Phrase,
  segment: Segment,
  type: Exclude<SignalTypes, 'from them' | 'from us'>,
  own: readonly Chunk[],
): DetailCondition[] {
  const types = new Set(phrase.catalogue.signalTypes(type));
  const marks = segment.unused(own).filter(isMark);
  const mark = marks.find((chunk) => !isOfAKind(own, chunk));
  const isMeant = ({ type: of, path }: MeaningOf<'detail'>): boolean =>
    types.has(of) && path !== 'path' && (!mark?.cue || path === `items.${mark.cue}`);
  const valuesByPath = new Map<string, string[]>();
  let hasUnknown = false;
  for (const chunk of segment.unused(own)) {
    const meanings = chunk.meanings.filter((each): each is MeaningOf<'detail'> => each.kind === 'detail' && isMeant(each));
    const [meaning, ...more] = meanings.sort(
      (a, b) => placeOf(a.path) - placeOf(b.path) || Number(a.isPart ?? false) - Number(b.isPart ?? false),
    );
    const alike = meaning?.isPart ? more.filter(({ path }) => path === meaning.path) : [];
    if (meaning)
      valuesByPath.set(meaning.path, [
        ...new Set([...(valuesByPath.get(meaning.path) ?? []), meaning.value, ...alike.map(({ value }) => value)]),
      ]);
    else hasUnknown ||= chunk.kind === 'free';
  }
  // What stands beside a word that is not known may belong to it.
  if (valuesByPath.size === 0 || hasUnknown) return [];
  segment.use(...marks);
  segment.takeAll('detail', isMeant, own);
  const isBoth = segment.isJoinedBy('and') && !segment.isJoinedBy('or');
  return [...valuesByPath].flatMap(([path, values]): DetailCondition[] => {
    const [list, inner] = path.split('.');
    if (list === undefined || inner === undefined) return [detailIs(path, values)];
    return (isBoth ? values.map((value) => [value]) : [values]).map((some) => ({ some: list, of: [detailIs(inner, some)] }));
  });
}
/** `clicked Glossy in Which clay are you?`: which of its links. */
function linksIn({ catalogue }: Phrase, segment: Segment, type: SignalTypes, own: readonly Chunk[]): DetailCondition[] {
  const types = new Set(catalogue.signalTypes(type));
  const links = segment.takeAll('detail', (each) => each.path === 'link' && types.has(each.type), own).map(({ value }) => value);
  return links.length > 0 ? [detailIs('link', [...new Set(links)])] : [];
}

/** By which detail a value is meant that stands in several. */
const placeOf = (path: string): number => (path === 'items.line' ? 0 : path === 'items.product' ? 1 : 2);

/** The detail by which a signal is spoken of, where it has no list of things. */
const MAIN_DETAILS = ['campaign', 'plan', 'event', 'file', 'course', 'group', 'role', 'subject', 'deal', 'network', 'channel'];

/** Behind which words these are named: `wrote by chat`, `met about wheels`, `liked something on a network`. Otherwise another thing is spoken of. */
const NAMED_BEHIND: Readonly<Record<string, RegExp>> = {
  network: /^(on|in|via|over)$/i,
  subject: /^(about|regarding|concerning|re|subject|is)$/i,
  channel: /^(by|via|through|over|on|per|in|channel|is)$/i,
};

const CHANNEL = /^(e-?mail|text|sms|chat|phone|post|letter)$/i;

/** Whether a detail of which anything may be said is not what these words tell: `liked the teacher` */
function isSomethingElse(own: readonly Chunk[], detail: string, [text = '']: readonly string[]): boolean {
  const word = text.split(' ')[0]?.toLowerCase() ?? '';
  const at = own.findIndex((chunk) => chunk.text.toLowerCase().split(' ')[0] === word);
  const before = own.slice(0, at).findLast(({ text: said }) => !/^(an?|the|our|their|any)$/i.test(said))?.text ?? '';
  const isOfAPost = /^posts?$/i.test(own[at + 1]?.text ?? '');
  // `liked something last month on a bus`
  const isBehindATime =
    own[own.findLastIndex(({ kind }, index) => index < at && kind !== 'filler')]?.kind === 'window' && detail === 'network';
  return isBehindATime || (NAMED_BEHIND[detail]?.test(before.split(' ').at(-1) ?? '') === false && !isOfAPost);
}

/** What else is said of a signal: which line or product, plan, page, form and answer. */
export function whereOf(phrase: Phrase, segment: Segment, type: SignalTypes, own: readonly Chunk[]): DetailCondition[] {
  if (type === 'from them' || type === 'from us') return [];
  const keys = new Set(detailsOf(phrase, type).map((field) => field.key));
  if (keys.has('answers')) return answersIn(phrase, segment, own);
  const messages = keys.has('campaign') ? segment.takeAll('message', () => true, own).map(({ key }) => key) : [];
  if (messages.length > 0) return [detailIs('campaign', messages), ...linksIn(phrase, segment, type, own)];
  const known = knownIn(phrase, segment, type, own);
  if (known.length > 0) return known;
  // Messages are all known: another word names none.
  if (keys.has('campaign')) return [];
  const marks = segment.unused(own).filter(isMark);
  const texts = segment.takeTexts(own);
  if (texts.length === 0) return [];
  if (keys.has('items')) {
    segment.use(...marks);
    const path = marks.some((chunk) => chunk.cue === 'product' && !isOfAKind(own, chunk)) ? 'product' : 'line';
    const isBoth = texts.length > 1 && segment.isJoinedBy('and') && !segment.isJoinedBy('or');
    return (isBoth ? texts.map((text) => [text]) : [texts]).map((values) => ({ some: 'items', of: [detailIs(path, values)] }));
  }
  // `visited both /wheels and /classes`: two visits.
  if (keys.has('path') && texts.length > 1 && segment.isJoinedBy('and') && !segment.isJoinedBy('or'))
    return texts.map((text) => ({ path: 'path', op: 'contains', value: text }));
  if (keys.has('path'))
    return [
      texts.length > 1 ? { path: 'path', op: 'contains any of', value: texts } : { path: 'path', op: 'contains', value: texts[0] ?? '' },
    ];
  const main = MAIN_DETAILS.find((key) => keys.has(key));
  // `cancelled a class`: that is no plan.
  if (main === 'plan' && texts.some((text) => /\b(class|workshop|lesson|event|order|booking|appointment)(es|s)?$/i.test(text)))
    segment.refuse();
  // `registered for the next evening`: when that is, nobody said.
  if (main === 'event' && texts.some((text) => /^(next|last|latest|upcoming|coming|first)( |$)/i.test(text) && !/^\p{Lu}/u.test(text)))
    segment.refuse();
  // `started a form`: no plan is called so. `given the role member`: a role may be.
  if (main !== 'role' && texts.some((text) => GENERAL_NOUNS.has(stem(text.split(' ').at(-1) ?? '')))) segment.refuse();
  if (main && isSomethingElse(own, main, texts)) segment.refuse();
  // No other channels are known.
  if (main === 'channel' && texts.some((text) => !CHANNEL.test(text))) segment.refuse();
  return main ? [detailIs(main, texts)] : [];
}
