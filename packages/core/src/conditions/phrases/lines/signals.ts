import { type Window } from '../../../time/window.ts';
import { type Condition, type DetailCondition, type LeafOf, type SignalTypes } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meansIn } from '../means.ts';
import { meaningOf, type MeaningOf } from '../meanings.ts';
import { NOUN } from '../names.ts';
import { type Segment } from '../segment.ts';
import { beside, whereOf, withWhere } from './details.ts';
import { laterLine, thenOf } from './followed.ts';
import { measured, saysOnly, SILENT_FOR } from './measures.ts';
import { BY_US, isNoSignalLine, lastsFor } from './no-signal.ts';
import { detailIs, NEVER, withWithin, wordsBefore, type Phrase } from './phrase.ts';
import { SO_MUCH } from '../words/language.ts';

type SignalLeaf = LeafOf<'signal'>;

/** What somebody did, or what was done: how often, when, with which details, and what came of it. */
export function signalLine(phrase: Phrase, segment: Segment, head: Chunk, named: MeaningOf<'signal'>): Condition | undefined {
  segment.head(head);
  const isByUs = BY_US.test(wordsBefore(segment.chunks, head));
  const isFromUs = /\b(repl(y|ies)|answers?|responses?) (at all )?from us\b/i.test(segment.chunks.map((chunk) => chunk.text).join(' '));
  // Who was not called was not called by us.
  const isOfThem = /^them$/i.test(segment.chunks[segment.chunks.indexOf(head) + 1]?.text ?? '');
  const isPassive =
    /\b(not|last|latest|(was|were|is|are)n't)$/i.test(wordsBefore(segment.chunks, head)) && /^(called|phoned|rung)( in)?$/i.test(head.text);
  const meaning = isByUs || isPassive || isOfThem || isFromUs ? byUs(phrase, named) : named;
  if (isNoSignalLine(phrase, segment, head, meaning)) segment.refuse();
  const later = laterLine(phrase, segment, head, meaning);
  if (later) return later;
  // `within 14 days of joining`: what that is reckoned from is nothing that happened.
  if (segment.chunks.some(({ text: said }, at) => /^of$/i.test(said) && segment.chunks[at - 1]?.isOpen)) segment.refuse();
  const silence = nothingSince(segment);
  const then = silence ? undefined : thenOf(phrase, segment, head);
  const own = segment.chunks.filter((chunk) => !then?.chunks.includes(chunk) && !silence?.includes(chunk));
  const type = alternatives(phrase, segment, head, meaning, own, isByUs || /^we\b/i.test(head.text));
  if (typeof type !== 'string') segment.isOfTypes([type].flat().flatMap((id) => phrase.catalogue.get('signalType', id)?.key ?? []));
  if (meansIn(own.slice(own.indexOf(head)), phrase.catalogue).length > 0) segment.refuse();
  // `placed three orders`: the same is said twice.
  for (const chunk of own.slice(own.indexOf(head) + 1)) {
    if (chunk.kind === 'joint') break;
    if (chunk.meanings.some((each) => each.kind === 'signal' && each.type === meaning.type)) segment.head(chunk);
  }
  const except = exceptionOf(phrase, segment, head, type, own);
  const kept = own.filter((chunk) => !except?.chunks.includes(chunk));
  // `said no room`: the answer is called so.
  kept.forEach((chunk, index) => {
    if (index > kept.indexOf(head) && /^no$/i.test(chunk.text) && kept[index + 1]?.meanings.some(({ kind }) => kind === 'answer'))
      segment.use(chunk);
  });
  // What was done in the past was done.
  segment.use(segment.unused(kept).find(({ cue, text }) => cue === 'ever' && /^(previously|in the past|before now)$/i.test(text)));
  const isNot = segment.takeNot(kept) !== (head.cue === 'empty');
  // `attended for two hours`: how long it took is not known.
  if (!isNot && lastsFor(kept)) segment.refuse();
  const said = windowOf(segment.takeWindow(kept), isNot);
  // Nobody has been silent ever since.
  const within = said ?? (head.cue === 'empty' && typeof type === 'string' ? SILENT_FOR : undefined);
  let base: SignalLeaf = { kind: 'signal', type, ...(then ? { then: then.then } : {}) };
  const call = phrase.catalogue.find('signalType', 'call.made');
  const isAnswered = call !== undefined && IS_ANSWERED.test(head.text) && isCall(phrase, type);
  const isUnanswered =
    call !== undefined && !isAnswered && isCall(phrase, type) && (CALL_ENDED.test(head.text) || segment.takeCue('unanswered'));
  if (isUnanswered) base = { ...base, type: call.id };
  const where =
    isUnanswered || isAnswered
      ? [{ path: 'answered', op: isAnswered ? 'is yes' : 'is no' }]
      : [...whereOf(phrase, segment, type, beside(kept, segment)), ...channelOf(phrase, segment, type, head)];
  // `missed an event or visited a page that contains kiln`: only one of them has such a thing.
  if (Array.isArray(type) && where.some((each) => !type.every((id) => hasDetail(phrase, id, each)))) segment.refuse();
  const isOnly = where.length > 0 && saysOnly(kept.slice(Math.max(0, kept.indexOf(head) - 2)));
  const others = isOnly ? allOthers(where) : undefined;
  if (isOnly && (!others || isNot)) segment.refuse();
  // `did not order two to four times`: less often or more often.
  const isOutside = isNot && kept.some(({ limit }) => limit?.op === 'between');
  const lines = [
    ...measured(
      phrase,
      segment,
      { ...base, ...withWhere(where), ...withWithin(within) },
      kept,
      meaning.spent === true,
      isNot && !isOutside,
    ),
    ...(others ? [{ ...base, where: others, count: NEVER, ...withWithin(within) }] : []),
  ];
  // What lies unopened was sent.
  const sent = /^un(opened|read|clicked)$/i.test(head.text) ? phrase.catalogue.find('signalType', 'message.sent') : undefined;
  if (sent) lines.unshift({ kind: 'signal', type: sent.id, ...withWhere(where), ...withWithin(within) });
  segment.passOver(own);
  segment.takeCue('oneOf');
  segment.takeCue('allOf');
  if (silence) {
    // So long ago, and not since then.
    if (isNot || except || typeof within !== 'object' || !('olderThan' in within)) return undefined;
    segment.use(...silence);
    const since: Window = { last: within.olderThan, unit: within.unit };
    return { match: 'all', of: [...lines, { ...base, ...withWhere(where), count: NEVER, within: since }] };
  }
  if (lines.length === 0) return undefined;
  if (isOutside) return except ? undefined : { match: 'none', of: lines };
  if (!except) return lines.length === 1 ? lines[0] : { match: 'all', of: lines };
  if (isNot) return undefined;
  const { where: other, within: when = within } = except;
  return { match: 'all', of: [...lines, { ...base, ...withWhere(other ?? where), count: NEVER, ...withWithin(when) }] };
}

/** `ordered more than 3 months ago and nothing since` */
function nothingSince({ chunks }: Segment): readonly Chunk[] | undefined {
  const said = chunks.filter(({ kind }) => kind !== 'filler').slice(-3);
  const [joint, none, since] = said;
  const isSo =
    joint?.joint === 'and' &&
    /^(nothing|none|not|never|no more|not again|nothing more)$/i.test(none?.text ?? '') &&
    /^(since|since then|ever since)$/i.test(since?.text ?? '');
  return isSo ? chunks.slice(chunks.indexOf(joint)) : undefined;
}

const BY_TEXT = /\b(text|chatt)ed\b/i;

const hasDetail = ({ catalogue }: Phrase, type: number, where: DetailCondition): boolean => {
  const named = 'path' in where ? where.path : 'some' in where ? where.some : where.none;
  return catalogue.detailsOf([type]).some(({ key }) => key === named.split('.')[0]);
};

/** `only clay`: whatever is not clay. Only where one thing is said of what was ordered is it clear what would be another. */
function allOthers(where: readonly DetailCondition[]): DetailCondition[] | undefined {
  const [item, ...more] = where;
  if (!item || more.length > 0 || !('some' in item)) return undefined;
  const [test, ...further] = item.of;
  if (!test || further.length > 0 || !('op' in test) || (test.op !== 'is' && test.op !== 'is one of')) return undefined;
  return [{ ...item, of: [{ ...test, op: test.op === 'is' ? 'is not' : 'is not one of' } as typeof test] }];
}

/** `texted us`: by which way somebody wrote, where the verb says it. An email is what is meant anyway. */
function channelOf(phrase: Phrase, segment: Segment, type: SignalTypes, { text }: Chunk): DetailCondition[] {
  const keys = phrase.catalogue.signalTypes(type).map((id) => phrase.catalogue.get('signalType', id)?.key ?? '');
  if (typeof type !== 'number' || !keys.some((key) => key.startsWith('message.'))) return [];
  const named = segment.unused().find(({ cue, text: said }) => cue !== undefined && BY_A_CHANNEL.test(said));
  segment.use(named);
  const by = BY_A_CHANNEL.exec(named?.text ?? text)?.[1]?.toLowerCase();
  if (by !== undefined) return [detailIs('channel', [by.replace('sms', 'text').replace('-', '')])];
  const channel = /^message\.(received|sent)$/.test(keys[0] ?? '')
    ? /\b(text|chatt)ed\b/i.exec(text)?.[1]?.slice(0, 4).toLowerCase()
    : undefined;
  return channel === undefined ? [] : [detailIs('channel', [channel])];
}

const SO_LONG = new RegExp(`^(in|for) ${SO_MUCH}`, 'i');
const IS_ANSWERED = /^(answered|picked up|took)\b/i;
const CALL_ENDED = /miss|answer|^picked up|^took/i;

const BY_A_CHANNEL = /\b(?:by|via|over) (chat|text|sms|e-?mail)\b/i;

/** `called twice, and nobody picked up`: only calls go unanswered, and only ours. */
const isCall = ({ catalogue }: Phrase, type: SignalTypes): boolean =>
  typeof type === 'number' && /^call\.(made|received)$/.test(catalogue.get('signalType', type)?.key ?? '');

/** Whom we never called has not been called by us, whatever they did. */
const OURS: Readonly<Record<string, string>> = {
  'call.received': 'call.made',
  'message.received': 'message.sent',
  'message.replied': 'message.sent',
};
function byUs({ catalogue }: Phrase, meaning: MeaningOf<'signal'>): MeaningOf<'signal'> {
  if (typeof meaning.type !== 'number') return meaning;
  const other = OURS[catalogue.get('signalType', meaning.type)?.key ?? ''];
  const type = other === undefined ? undefined : catalogue.find('signalType', other);
  return type ? { ...meaning, type: type.id } : meaning;
}

/** Nothing for more than a month is nothing in the last month. */
const windowOf = (window: Window | undefined, isNot: boolean): Window | undefined =>
  isNot && typeof window === 'object' && 'olderThan' in window ? { last: window.olderThan, unit: window.unit } : window;

interface Exception {
  /** left out where the same is asked */
  readonly where: DetailCondition[] | undefined;
  readonly within: Window | undefined;
  readonly chunks: readonly Chunk[];
}

/** What is left out behind a "not": `bought glaze but not clay`, `ordered, but not in the last 30 days` */
function exceptionOf(phrase: Phrase, segment: Segment, head: Chunk, type: SignalTypes, own: readonly Chunk[]): Exception | undefined {
  const isContent = (chunk: Chunk): boolean =>
    chunk.kind === 'free' ||
    chunk.kind === 'window' ||
    (chunk.kind === 'limit' && chunk.limit?.of === 'times') ||
    (chunk.kind === 'thing' && !segment.isUsed(chunk));
  const at = own.findIndex(
    (chunk, index) =>
      chunk.kind === 'not' &&
      (own.slice(own.indexOf(head), index).some(isContent) || (index > own.indexOf(head) && own[index - 1]?.joint === 'and')),
  );
  const not = own[at];
  if (at < 0 || not === undefined || own.slice(at + 1).some((chunk) => chunk.kind === 'not')) return undefined;
  // `looked at wheels but has no wheel`: what somebody has is nothing that they looked at.
  if (/^(has|have|had|owns?)$/i.test(own[at - 1]?.text ?? '') && /^no$/i.test(not.text)) segment.refuse();
  const rest = own.slice(at + 1);
  // `purchased wheels but no budget`: a fact is no thing that was bought.
  const [what] = rest.filter(({ kind }) => kind !== 'filler');
  const isFact =
    what?.meanings.some(({ kind }) => kind === 'field') && !what.meanings.some(({ kind }) => kind === 'detail' || kind === 'family');
  if (/^no$/i.test(not.text) && isFact) segment.refuse();
  const where = whereOf(phrase, segment, type, rest);
  const hasWindow = own.slice(0, at).some((chunk) => chunk.kind === 'window');
  // One window behind both is meant for both, but for `ordered glaze, no clay in 6 months`.
  const isOfItself = own[at - 1]?.text === ',' && rest.some(({ kind, text }) => kind === 'window' && SO_LONG.test(text));
  const within = where.length > 0 && !hasWindow && !isOfItself ? undefined : segment.takeWindow(rest);
  if (where.length === 0 && within === undefined) return undefined;
  segment.use(not, ...own.slice(0, at).filter((chunk, index) => chunk.kind === 'joint' && index === at - 1));
  return { where: where.length > 0 ? where : undefined, within, chunks: [not, ...rest.filter((chunk) => segment.isUsed(chunk))] };
}

/** `opened or clicked`: either of them counts. */
function alternatives(
  phrase: Phrase,
  segment: Segment,
  head: Chunk,
  meaning: MeaningOf<'signal'>,
  own: readonly Chunk[],
  areOurs: boolean,
): SignalTypes {
  if (typeof meaning.type !== 'number') return meaning.type;
  const types = [meaning.type];
  const heads = [head];
  const words = own.slice(own.indexOf(head) + 1).filter((chunk) => chunk.kind !== 'filler');
  for (let at = 0; words[at]?.joint === 'or'; at += 2) {
    const chunk = words[at + 1];
    const said = chunk && meaningOf(chunk, 'signal');
    // `we called or wrote to them`
    const other = said && areOurs ? byUs(phrase, said) : said;
    if (!chunk || typeof other?.type !== 'number') break;
    // `never ordered or ordered exactly once`: of one kind something different is said of each.
    if (types.includes(other.type)) segment.refuse();
    types.push(other.type);
    heads.push(chunk);
    segment.head(chunk);
  }
  segment.join(heads);
  const kinds = new Set(types.map((type) => phrase.catalogue.get('signalType', type)?.key.split('.')[0]));
  // `never clicked or ordered more than 100 times`, `downloaded a file or ordered twice`
  const isOfSome = kinds.size > 1 || own.some(({ kind }) => kind === 'not');
  if (types.length > 1 && isOfSome && own.some(({ kind }) => kind === 'limit')) segment.refuse();
  // `answered the phone or downloaded a file`: how a call ended is said of the call alone.
  if (types.length > 1 && heads.some(({ text }, at) => CALL_ENDED.test(text) && isCall(phrase, types[at] as SignalTypes))) segment.refuse();
  // Of plans that were started or renewed, what stands before is said of both.
  if (types.length > 1 && !isOfAll(segment, heads, kinds.size === 1 ? own.slice(own.indexOf(head)) : own)) segment.refuse();
  return types.length > 1 ? types : meaning.type;
}

/** `opened or clicked`: what else is said has to be said of each. `met with us or ordered twice` are two lines. */
function isOfAll(segment: Segment, heads: readonly Chunk[], own: readonly Chunk[]): boolean {
  const [first, last] = [heads[0], heads.at(-1)].map((head) => own.indexOf(head as Chunk)) as [number, number];
  // `nobody ever called or wrote`: that is at any time.
  const isSaid = ({ kind, text }: Chunk): boolean => kind !== 'filler' && kind !== 'joint' && !/^ever$/i.test(text);
  if (own.slice(first, last).some((chunk) => (isSaid(chunk) && !heads.includes(chunk)) || /^who$/i.test(chunk.text))) return false;
  if (own.slice(0, first).some((chunk) => isSaid(chunk) && chunk.kind !== 'not')) return false;
  // `without buying or left something`: the one was not done, the other was.
  const areDone = heads.map(({ text }) => /ing\b/i.test(text) || NOUN.test(text));
  if (own.some(({ text }) => /^without$/i.test(text)) && new Set(areDone).size > 1) return false;
  if (heads.some((head) => head.cue === 'empty' || head.meanings.some((each) => each.kind === 'signal' && each.spent))) return false;
  // `clicked or was texted`, `withdrew consent or received nothing`: said of the one alone.
  if (heads.some(({ text }) => BY_TEXT.test(text)) || own.slice(last).some(({ kind }) => kind === 'not')) return false;
  // `met with us or joined three groups`
  return !segment.chunks.some(({ limit }) => limit && limit.of !== 'times' && limit.of !== 'days');
}
