import { type Condition, type LeafOf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { lexiconOf } from '../lexicon.ts';
import { tokensOf } from '../tokens.ts';
import { meaningOf, type MeaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { whereOf, withWhere } from './details.ts';
import { withWithin, type Phrase } from './phrase.ts';

type SignalLeaf = LeafOf<'signal'>;

/** What has to come, or not to come, after it: `and did not order within 2 hours` */
export function thenOf(
  phrase: Phrase,
  segment: Segment,
  head: Chunk,
): { readonly then: NonNullable<SignalLeaf['then']>; readonly chunks: readonly Chunk[] } | undefined {
  const behind = segment.chunks.slice(segment.chunks.indexOf(head) + 1);
  const lacking = lackingBehind(phrase, segment, behind);
  if (lacking) return lacking;
  const silence = silenceBehind(segment, behind);
  if (silence) return silence;
  const other = behind.find((chunk) => meaningOf(chunk, 'signal'));
  const again = other ? undefined : againBehind(behind);
  const second = other ?? again;
  const meaning = second && meaningOf(again ? head : second, 'signal');
  const between = second ? behind.slice(0, behind.indexOf(second)) : [];
  const begin = between.findIndex((chunk) => chunk.joint === 'and' || chunk.cue === 'then' || /^without$/i.test(chunk.text));
  if (!meaning || begin < 0 || between.some((chunk) => chunk.joint === 'or')) return undefined;
  const own = behind.slice(begin);
  // Only what comes soon after, or is said to come after, belongs together; otherwise these are two lines.
  const soon = own.find((chunk) => chunk.isOpen && !isStill(own, second, chunk));
  // `refunded and never ordered again` is about what came after it.
  const isNoMore = own.some(({ kind }) => kind === 'not');
  const after = own.filter(({ cue, text }) => cue === 'then' || /^after$/i.test(text) || (isNoMore && /\bagain$/i.test(text)));
  if (!soon && after.length === 0) return undefined;
  // `hasn't ordered for 90 days, renews within a week`: what was not done is followed by nothing.
  if (after.length === 0 && segment.chunks.slice(0, segment.chunks.indexOf(head)).some(({ kind }) => kind === 'not')) return undefined;
  segment.head(other);
  segment.use(soon, ...after, ...own.slice(0, 1));
  const isNot = segment.takeNot(own.filter((chunk) => chunk !== soon)) !== (second?.cue === 'empty');
  const chunks = own.filter((chunk) => chunk !== soon && chunk.kind !== 'window' && chunk.kind !== 'limit');
  passOverNouns(phrase, segment, meaning, chunks);
  const where = whereOf(phrase, segment, meaning.type, chunks);
  if (again && where.length === 0) segment.refuse();
  const within = typeof soon?.window === 'object' && 'last' in soon.window ? { n: soon.window.last, unit: soon.window.unit } : undefined;
  return { then: { type: meaning.type, ...withWhere(where), happens: !isNot, ...(within ? { within } : {}) }, chunks };
}

/** `and silent for 60 days`, `and has not ordered in a year`: how it is today, and not what came of the one before. */
function isStill(own: readonly Chunk[], second: Chunk | undefined, { text, window }: Chunk): boolean {
  if (/^for\b/i.test(text) || second?.cue === 'empty' || own.some(({ limit }) => limit?.value === 0)) return true;
  if (!/^in\b/i.test(text)) return false;
  // `not called in 3 months`; `did not order in 2 days` is about what came of it.
  const isNot = own.some(({ kind }) => kind === 'not') && !own.some((chunk) => /^(did|didn't|never)$/i.test(chunk.text));
  const isLong = typeof window === 'object' && 'unit' in window && /^(weeks|months|years)$/.test(window.unit);
  return (isNot && isLong) || own.some((chunk) => /^(has|have|hasn't|haven't)\b/i.test(chunk.text));
}

/** `left a basket without buying`, `opened a message without clicking`: what did not come of it. So many times without something are two lines. */
function lackingBehind(phrase: Phrase, segment: Segment, behind: readonly Chunk[]): ReturnType<typeof thenOf> {
  const at = behind.findIndex(({ text }) => WITHOUT.test(text));
  const without = behind[at];
  const isCounted = segment.chunks
    .slice(0, segment.chunks.indexOf(without as Chunk))
    .some(({ kind }) => kind === 'limit' || kind === 'not');
  const rest = behind.slice(at + 1);
  const second = rest.find(({ kind }) => kind !== 'filler');
  const named = second && signalIn(phrase, second, rest.slice(rest.indexOf(second) + 1));
  if (!without || !second || !named || isCounted || rest.some(({ kind }) => kind === 'joint' || kind === 'limit')) return undefined;
  if (behind.some((chunk) => chunk !== second && meaningOf(chunk, 'signal'))) return undefined;
  const place = rest.indexOf(second);
  segment.head(second);
  segment.use(without, ...rest.slice(place, place + named.size));
  const soon = rest.find((chunk) => chunk.isOpen);
  segment.use(soon);
  const chunks = rest.filter((chunk) => chunk !== soon && chunk.kind !== 'window');
  passOverNouns(phrase, segment, named.meaning, chunks);
  const where = whereOf(phrase, segment, named.meaning.type, chunks);
  const within = typeof soon?.window === 'object' && 'last' in soon.window ? { n: soon.window.last, unit: soon.window.unit } : undefined;
  return {
    then: { type: named.meaning.type, ...withWhere(where), happens: false, ...(within ? { within } : {}) },
    chunks: [without, ...chunks],
  };
}
/** `has not been to a class since`: any class is meant. */
function passOverNouns({ catalogue }: Phrase, segment: Segment, { type }: MeaningOf<'signal'>, chunks: readonly Chunk[]): void {
  if (typeof type !== 'string') segment.isOfTypes([type].flat().flatMap((id) => catalogue.get('signalType', id)?.key ?? []));
  segment.passOver(chunks);
}

/** `wrote to us last week and got no reply`: nothing came from us after that. */
function silenceBehind(segment: Segment, behind: readonly Chunk[]): ReturnType<typeof thenOf> {
  const at = behind.findIndex(({ joint }) => joint === 'and');
  const [none, ...others] = behind.slice(at + 1).filter(({ kind }) => kind !== 'filler');
  const isSo = none !== undefined && /^(got|and got|but got) no (answer|reply|response)$/i.test(none.text) && others.length === 0;
  const joint = behind[at];
  if (at < 0 || !isSo || !joint) return undefined;
  segment.head(none);
  segment.use(joint);
  return { then: { type: 'from us', happens: false }, chunks: [joint, none] };
}

const WITHOUT = /^(without( ever)?|w\/o)$/i;

/** `bought a wheel and then a kiln`: the same happened again, to something else. */
function againBehind(behind: readonly Chunk[]): Chunk | undefined {
  const at = behind.findIndex(({ cue, text }) => cue === 'then' && /\bthen$|^followed by$/i.test(text));
  const object = at < 1 ? undefined : behind.slice(at + 1).find(({ kind }) => kind !== 'filler');
  return object && (object.kind === 'thing' || object.kind === 'free') ? object : undefined;
}

/** The other way round: `ordered within 7 days of opening Your glaze shelf`, `did not order after a class`, `silent since ordering` */
export function laterLine(phrase: Phrase, segment: Segment, head: Chunk, meaning: MeaningOf<'signal'>): Condition | undefined {
  const { chunks } = segment;
  const at = chunks.findIndex(
    (chunk, index) => index > chunks.indexOf(head) && (/^(of|after)$/i.test(chunk.text) || isSince(chunks, index)),
  );
  const mark = chunks[at];
  const soon = chunks[at - 1]?.isOpen ? chunks[at - 1] : undefined;
  const isSaidSince = at >= 0 && isSince(chunks, at);
  // `since their last order`: since then there was none.
  const last = isSaidSince ? chunks.slice(at + 1).find(({ kind }) => kind !== 'filler') : undefined;
  const latest = last?.cue === 'latest' ? last : undefined;
  const second = chunks.slice(at + 1).find((chunk) => chunk.kind !== 'filler' && chunk !== latest);
  const named = second && signalIn(phrase, second, chunks.slice(chunks.indexOf(second) + 1), kindOf(phrase, meaning));
  const first = named?.meaning;
  if (!mark || !second || !first || typeof first.type !== 'number') return undefined;
  if (typeof meaning.type !== 'number' && !isSaidSince) return undefined;
  if (!soon && /^of$/i.test(mark.text)) return undefined;
  segment.head(second);
  segment.use(mark, soon, latest, ...chunks.slice(chunks.indexOf(second), chunks.indexOf(second) + named.size));
  const before = chunks.slice(0, at).filter((chunk) => chunk !== soon);
  const behind = chunks.slice(chunks.indexOf(second));
  const isNot = segment.takeNot(before) !== (head.cue === 'empty');
  const then = whereOf(phrase, segment, meaning.type, before.slice(before.indexOf(head)));
  const within = withWithin(segment.takeWindow(behind));
  const where = whereOf(phrase, segment, first.type, behind);
  const soonest =
    typeof soon?.window === 'object' && 'last' in soon.window ? { within: { n: soon.window.last, unit: soon.window.unit } } : {};
  segment.passOver(chunks);
  return {
    kind: 'signal',
    type: first.type,
    ...withWhere(where),
    ...within,
    then: { type: meaning.type, ...withWhere(then), happens: !isNot, ...soonest },
  };
}

/** `since ordering`, `since they ordered`, but not `and nothing since`: something stands behind it. */
const isSince = (chunks: readonly Chunk[], at: number): boolean =>
  /^(ever )?since$/i.test(chunks[at]?.text ?? '') && chunks.slice(at + 1).some(({ kind }) => kind !== 'filler');

/** What verbs without -ed are in the past, by what stands before their -ing. */
const PAST: Readonly<Record<string, string>> = {
  tak: 'took',
  com: 'came',
  go: 'went',
  leav: 'left',
  writ: 'wrote',
  see: 'saw',
  hav: 'had',
  mak: 'made',
};

/** Of what a signal tells, like a course or a plan: by this the key of its type begins. */
const kindOf = ({ catalogue }: Pick<Phrase, 'catalogue'>, { type }: MeaningOf<'signal'>): string | undefined =>
  typeof type === 'number' ? catalogue.get('signalType', type)?.key.split('.')[0] : undefined;

/**
 * What a word tells of that happened, in the form in which it stands behind "after", with what belongs to it: `opening`, `signing up for`
 *
 * @param kind of what it rather tells, where a word says it of several
 */
function signalIn(
  { catalogue }: Phrase,
  chunk: Chunk,
  behind: readonly Chunk[],
  kind?: string,
): { readonly meaning: MeaningOf<'signal'>; readonly size: number } | undefined {
  const named = meaningOf(chunk, 'signal');
  const stem = /^(\w{2,})ing$/i.exec(chunk.text)?.[1]?.toLowerCase();
  if (named || stem === undefined) return named && { meaning: named, size: 1 };
  const lexicon = lexiconOf(catalogue);
  for (const form of [PAST[stem] ?? `${stem}ed`, `${stem}d`, stem])
    for (const size of [3, 2, 1]) {
      const said = [form, ...behind.slice(0, size - 1).map(({ text }) => text)];
      const tokens = tokensOf(said.join(' '));
      const found = lexicon.find(tokens, 0);
      const meanings = found?.meanings.filter((each): each is MeaningOf<'signal'> => each.kind === 'signal') ?? [];
      const meaning = meanings.find((each) => kind !== undefined && kindOf({ catalogue }, each) === kind) ?? meanings[0];
      if (meaning && found?.length === tokens.length) return { meaning, size };
    }
  return undefined;
}
