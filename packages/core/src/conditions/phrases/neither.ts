import { isGroup, type Condition, type Leaf } from '../schema.ts';
import { type Chunk } from './chunks.ts';
import { type Joint, type Lines } from './joints.ts';
import { none } from './lines/phrase.ts';
import { meaningOf } from './meanings.ts';
import { NOUN } from './names.ts';

/** What is said without how often, how much or when. */
const isPlain = (chunks: readonly Chunk[]): boolean =>
  chunks.length > 0 && chunks.every(({ kind }) => kind === 'thing' || kind === 'free' || kind === 'cue' || kind === 'filler');

/** Whether an “or” stands before a piece, or a comma that stands for one: `no phone, email or city` */
export function isEither(chunks: readonly Chunk[], start: number, end: number, joint: Joint): boolean {
  if (chunks[start]?.kind !== 'joint' || joint !== 'comma') return joint === 'or';
  const next = chunks.slice(start + 1).find(({ kind, text }) => kind === 'joint' && text !== ',');
  const said = chunks.slice(start + 1, end).filter(({ kind }) => kind !== 'joint');
  // `never opened, clicked or replied this week`
  const isTimed = said.at(-1)?.kind === 'window';
  return next?.joint === 'or' && isPlain(isTimed ? said.slice(0, -1) : said);
}

/** What a line is about of which no more is said than that it is not so. */
export function deniedIn(chunks: readonly Chunk[]): readonly Chunk[] | undefined {
  const at = chunks.findIndex(({ kind }) => kind === 'not');
  const isFirst = at >= 0 && chunks.slice(0, at).every(({ kind }) => kind === 'filler');
  // `nobody ever called them`
  return isFirst && isPlain(chunks.slice(at + 1).filter(({ text }) => !/^ever$/i.test(text))) ? chunks : undefined;
}

/** Behind these words another sentence begins: `not a customer or is eager` */
const OF_ITS_OWN =
  /^(is|are|was|were|has|have|had|does|do|did|who|that|which|we|i|they|can|can't|cannot|could|may|must|owns|owned|lives|works|wants|likes|loves|keeps|interested|subscribed|opted|consent|became|become)\b/i;

/**
 * `no phone or email`, `did not attend Raku or register for Glaze`: a “not” is said of both, so that neither is to hold.
 *
 * @returns nothing where what stands behind the “or” is of another kind or a sentence of its own
 */
export function neitherOf(
  { denied, lines, joints }: Lines & { readonly denied?: readonly Chunk[] | undefined },
  chunks: readonly Chunk[],
  condition: Condition,
): Lines | undefined {
  const last = lines.at(-1);
  // `no phone, email or city`
  const either = isGroup(condition) && condition.match === 'any' ? condition.of : [condition];
  const kind = last && kindOf(last);
  if (!denied || !last || !either.every((each): each is Leaf => !isGroup(each))) return undefined;
  // `no deals or orders`
  const isOfThings =
    denied.some(({ kind: each, text }) => each === 'not' && /^(no|without|lacks?|lacking)$/i.test(text)) && isThing(chunks, either);
  if (!isOfThings && either.some((each) => each.kind !== kind)) return undefined;
  if (either.some((each) => isOfTheSame(last, each) || isChosenBesideMissing(last, each))) return undefined;
  // `no kiln or a budget over 10,000`: the one is not so, or the other is.
  const said = chunks.filter(({ kind }) => kind !== 'joint');
  const isTest = !isPlain(kind === 'signal' && said.at(-1)?.kind === 'window' ? said.slice(0, -1) : said);
  // `no birthday or country unknown`
  const isDenied = said.some(({ kind: each, cue }) => each === 'not' || cue === 'empty');
  if (isTest || isDenied || isDoneAfter(denied, chunks) || chunks.some(({ text }) => OF_ITS_OWN.test(text))) return undefined;
  const [one] = either;
  const isTimed = one?.kind === 'signal' && one.within !== undefined && !isGroup(last) && last.kind === 'signal' && !last.within;
  const first: Condition = isTimed ? { ...last, within: one.within } : last;
  return { lines: [...lines.slice(0, -1), first, ...either.map(none)], joints: [...joints, ...either.map((): Joint => 'and')] };
}

/** `without buying or left something`: the one was not done, the other was. */
const isDoneAfter = (denied: readonly Chunk[], chunks: readonly Chunk[]): boolean =>
  denied.some(({ text }, at) => /^without$/i.test(text) && /ing\b/i.test(denied[at + 1]?.text ?? '')) &&
  chunks.some((chunk) => meaningOf(chunk, 'signal') && !NOUN.test(chunk.text) && !/ing\b/i.test(chunk.text));

/** `no owner or owner Sol`: who has none has no other either, so that only the one or the other makes sense. */
function isOfTheSame(denied: Condition, line: Leaf): boolean {
  if (isGroup(denied)) return false;
  if (denied.kind === 'owner' && line.kind === 'owner') return denied.op === 'is empty';
  return (
    denied.kind === 'field' && line.kind === 'field' && denied.field === line.field && (denied.op === 'is empty' || denied.op === 'is no')
  );
}

/** `no phone or recommended by a friend`: the phone is missing, and of another fact a value is given. */
const isChosenBesideMissing = (missing: Condition, line: Leaf): boolean =>
  !isGroup(missing) &&
  missing.kind === 'field' &&
  missing.op === 'is empty' &&
  line.kind === 'field' &&
  line.op !== 'is filled' &&
  line.op !== 'is yes';

/** Whether it is something that somebody may have: a fact, deals, orders. */
const isThing = (chunks: readonly Chunk[], lines: readonly Leaf[]): boolean =>
  lines.every(
    (line) =>
      line.kind === 'deal' ||
      (line.kind === 'field' && line.op === 'is filled') ||
      (line.kind === 'signal' && chunks.some((chunk) => meaningOf(chunk, 'signal') && NOUN.test(chunk.text))),
  );

/** What a line asks about, or the one line that is not to hold. */
function kindOf(condition: Condition): Leaf['kind'] | undefined {
  if (!isGroup(condition)) return condition.kind;
  const [only, ...others] = condition.of;
  return condition.match === 'none' && only && others.length === 0 ? kindOf(only) : undefined;
}
