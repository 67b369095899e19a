import { isGroup, type Condition, type Count, type LeafKind } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { countOf, NEVER, type LineReading, type Phrase } from './phrase.ts';

const PEOPLE = /^(contacts?|people|persons?|somebody|someone|anybody|anyone|employees?)$/i;
/** Companies have none of these. */
const OF_PEOPLE_ALONE: ReadonlySet<string> = new Set<LeafKind>(['tag', 'stage', 'consent', 'band', 'score']);
const ONE: Count = { op: '>=', value: 1 };
/** Where nobody spoke of people, or not of how many, it is rather the company that is meant. */
const [UNSAID, UNCOUNTED] = [0.6, 0.2];
/** `at least two people who looked at wheels`: the number is of people, and not of how often they looked. */
const SAID = 0.5;

/**
 * What is asked of the contacts of a company: `with an eager contact`, `at least two people who looked at wheels`, `no decider`
 *
 * @param read pieces as a line about a contact
 */
export function contactsReadings(
  { catalogue }: Phrase,
  chunks: readonly Chunk[],
  read: (chunks: readonly Chunk[]) => readonly LineReading[],
): readonly LineReading[] {
  // `no contact` says elsewhere that nothing was heard.
  const nobody = chunks.find(({ text }) => /^no contacts?$/i.test(text));
  const at = nobody ? chunks.indexOf(nobody) : chunks.findIndex(({ text }) => PEOPLE.test(text));
  const isSaid = at >= 0;
  // `at least 5 contacts and an open deal` are two lines.
  if (isSaid && chunks[at + 1]?.kind === 'joint') return [];
  // Of how many all of them are, nobody can ask.
  if (chunks.slice(Math.max(0, at - 3), Math.max(0, at)).some(({ text }) => /^(all|every|each|half|most)$/i.test(text))) return [];
  // `two eager contacts`, `more than two customers`
  const limit = chunks
    .slice(Math.max(0, at - 2), isSaid ? at : undefined)
    .find((chunk, index, those) => chunk.kind === 'limit' && (isSaid || isOfSome(those[index + 1])));
  // Behind people a "not" is said of them: `somebody who never ordered`
  const not = nobody ?? firstNot(isSaid ? chunks.slice(0, at) : chunks);
  const count = limit?.limit ? countOf(limit.limit, not !== undefined) : not ? NEVER : ONE;
  const isOfOneOfThem = isSaid && chunks.slice(at).some(({ kind }) => kind === 'not');
  const inner = chunks.filter((chunk) => chunk !== limit && chunk !== not && !isCompanies(chunk));
  const size = (limit?.size ?? 0) + (not?.size ?? 0);
  if (isSaid && (limit ?? not) && inner.every(({ kind, cue }) => kind === 'filler' || cue === 'company'))
    return [{ condition: { kind: 'contacts', condition: { match: 'all', of: [] }, count }, score: size + SAID, unread: [] }];
  /** A company was added, too, and a text may be anybody's. */
  const isOfPeople = (id: number): boolean => {
    const field = catalogue.get('field', id);
    return field !== undefined && field.key !== 'added' && field.body.type !== 'text';
  };
  const isTheirs = (condition: Condition): boolean => {
    if (isGroup(condition)) return condition.of.length > 0 && (condition.of.every(isTheirs) || isOfOne(condition));
    const { kind } = condition;
    if (kind === 'field') return condition.of === 'contact' && (isSaid || isOfPeople(condition.field));
    // Of whom nobody minds it is not clear whether all of them are meant, or one.
    if (kind === 'owner') return isSaid || condition.op !== 'is empty';
    if (kind === 'audience') return isSaid && (catalogue.body('audience', condition.audience)?.of ?? 'contact') === 'contact';
    return isSaid || OF_PEOPLE_ALONE.has(kind);
  };
  return [...read(inner), ...ofOnePerson(inner, read)].flatMap(({ condition, score, unread }) =>
    isTheirs(condition)
      ? [
          {
            condition: { kind: 'contacts', condition, count } as const,
            score: score + size + (limit || isOfOneOfThem ? SAID : isSaid ? -UNCOUNTED : -UNSAID),
            unread,
          },
        ]
      : [],
  );
}

/** All that is asked for are companies. */
const isCompanies = ({ cue, text }: Chunk): boolean => cue === 'company' && /^(compan(y|ies)|firms?|business(es)?)$/i.test(text);

/** `a decider who opened a message`: what one person is, and has done. */
function ofOnePerson(chunks: readonly Chunk[], read: (chunks: readonly Chunk[]) => readonly LineReading[]): readonly LineReading[] {
  const who = chunks.findIndex(({ text }) => /^(who|whose)$/i.test(text));
  // `no customers in Sweden`
  const where = chunks.findIndex(
    ({ text }, index) => /^(in|from)$/i.test(text) && (isOfSome(chunks[index - 1]) || PEOPLE.test(chunks[index - 1]?.text ?? '')),
  );
  const at = who < 0 ? where : who;
  // `whose decider opened a message`
  const isTheirs = who >= 0 && isOfSome(chunks[at + 1]) && chunks.length > at + 2;
  if (!isTheirs && (at < 1 || !chunks.slice(0, at).some(isOfSome))) return [];
  const parts = isTheirs ? [chunks.slice(at + 1, at + 2), chunks.slice(at + 2)] : [chunks.slice(0, at), chunks.slice(at)];
  const [what, done] = parts.map((part, index) => {
    // Somebody is a buyer here by their part in the purchase, and not by what they bought.
    const isMeant = ({ condition }: LineReading): boolean => index > 0 || isGroup(condition) || condition.kind !== 'signal';
    const whole = read(part).filter((each) => each.unread.length === 0 && isMeant(each));
    return [...whole].sort((a, b) => b.score - a.score)[0];
  });
  if (!what || !done || isGroup(what.condition)) return [];
  return [{ condition: { match: 'all', of: [what.condition, done.condition] }, score: what.score + done.score, unread: [] }];
}

/** Whether it begins with what somebody is, which is said of no company. */
const isOfOne = ({ match, of }: Extract<Condition, { of: readonly Condition[] }>): boolean => {
  const [first] = of;
  if (match !== 'all' || !first || isGroup(first)) return false;
  return OF_PEOPLE_ALONE.has(first.kind) || (first.kind === 'field' && first.of === 'contact');
};

/** Whether a word says what somebody is, of whom there can be several: `customers`, `deciders` */
const isOfSome = (chunk: Chunk | undefined): boolean =>
  chunk?.meanings.some(({ kind }) => kind === 'stage' || kind === 'tag' || kind === 'band' || kind === 'option') ?? false;

/** `no decider`, `companies without a decider`: a “not” before everything else. */
function firstNot(chunks: readonly Chunk[]): Chunk | undefined {
  const first = chunks.find(({ kind, cue }) => kind !== 'filler' && kind !== 'joint' && cue !== 'company');
  return first?.kind === 'not' ? first : undefined;
}
