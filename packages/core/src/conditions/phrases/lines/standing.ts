import { type TagValueKind } from '../../../tags/values.ts';
import { type Condition, type Leaf, type LeafOf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { INTERESTED } from '../words/cues.ts';
import { datedAhead, datedBy, isAhead } from './dates.ts';
import { none, noneIf, withSince, withWithin, type Phrase } from './phrase.ts';

export function tagLine(phrase: Phrase, segment: Segment, head: Chunk, tag: number): Condition {
  const several = tagsLine(segment, head, tag);
  if (several) return several;
  segment.head(head);
  segment.takeCue('tag');
  segment.takeCue('cares');
  if (!takeGiven(segment, head)) segment.takeWord(/^given$/i);
  // `the snag is price`: the family of the tag.
  const family = phrase.catalogue.body('tag', tag)?.family;
  segment.takeAll('family', (each) => each.family === family);
  const valued = phrase.catalogue.body('tag', tag)?.value;
  const lost = segment.cue('lost');
  // `people we lost to price` had no tag taken off.
  const [who, what] = lost ? [-1, 1].map((far) => segment.chunks[segment.chunks.indexOf(lost) + far]?.text ?? '') : [];
  if (/^we$/i.test(who ?? '') || /^to$/i.test(what ?? '')) segment.refuse();
  const isLost = segment.takeCue('lost');
  const ever = segment.cue('ever');
  const isEver = !isLost && (segment.takeCue('ever') || saysNever(segment));
  if (isEver) segment.takeWord(/^once$/i);
  const isNot = segment.takeNot();
  const value = valued && carriedTest(phrase, segment, valued);
  const since = isEver ? undefined : isLost ? segment.takeWindow() : segment.takeSince(isNot);
  if (isLost) return noneIf(isNot, { kind: 'tag', tag, op: 'lost', ...withSince(since) });
  // `former members`, `used to have the tag`
  if (isEver) return noneIf(isNot, { kind: 'tag', tag, op: NO_MORE.test(ever?.text ?? '') ? 'lost' : 'had' });
  return noneIf(isNot, { kind: 'tag', tag, op: 'has', ...(value ? { value } : {}), ...withSince(since) });
}

/** `the tag snag.price added last week`: what is added by its key is the tag and not the person. */
function takeGiven(segment: Segment, head: Chunk): boolean {
  const at = segment.chunks.indexOf(head);
  const isTag = head.text.includes('.') || segment.chunks.some(({ cue }) => cue === 'tag');
  const said = segment.chunks.slice(at + 1).find(({ kind }) => kind !== 'filler');
  const before = segment.chunks.slice(0, at).find(({ kind }) => kind !== 'filler');
  const given = isTag ? [said, before].find((chunk) => chunk && /^(given|added|received|assigned|set)$/i.test(chunk.text)) : undefined;
  segment.use(given);
  return given !== undefined;
}

const ACTIVE = /^((is|are|was|were) )?active$/i;
const INACTIVE = /^((is|are|was|were) )?(inactive|not active)$/i;
/** `more than 3 hours left`, `renews next week`, `active` */
function carriedTest(phrase: Phrase, segment: Segment, kept: TagValueKind): LeafOf<'tag'>['value'] {
  switch (kept) {
    case 'number': {
      const limit = segment.takeLimit();
      return limit && { op: limit.op, value: limit.value };
    }
    case 'date':
      return isAhead(segment.chunks.map(({ text }) => text).join(' ')) ? datedAhead(phrase, segment) : datedBy(phrase, segment, false);
    case 'active':
      return segment.takeWord(INACTIVE) ? { op: 'is inactive' } : segment.takeWord(ACTIVE) ? { op: 'is active' } : undefined;
  }
}

/** `all of snag.price and glaze.buyer`, `one of snag.price, snag.time` */
function tagsLine(segment: Segment, head: Chunk, tag: number): Condition | undefined {
  const said = (['allOf', 'oneOf'] as const).find((cue) => segment.cue(cue));
  if (!said) return undefined;
  segment.takeCue(said);
  segment.takeCues('tag');
  segment.head(head);
  const isNot = segment.takeNot();
  const others = segment.unused().filter((chunk) => chunk.meanings.some(({ kind }) => kind === 'tag'));
  segment.join([head, ...others]);
  const ids = [tag, ...others.flatMap((chunk) => chunk.meanings.flatMap((each) => (each.kind === 'tag' ? [each.tag] : [])).slice(0, 1))];
  const of = ids.map((id): Leaf => ({ kind: 'tag', tag: id, op: 'has' }));
  if (!isNot) return { match: said === 'allOf' ? 'all' : 'any', of };
  return said === 'allOf' ? { match: 'none', of: [{ match: 'all', of }] } : { match: 'none', of };
}

/** `any snag`, `no snag at all`: one of the tags of a family, or none. */
export function familyLine({ catalogue }: Phrase, segment: Segment, head: Chunk, family: number): Condition | undefined {
  segment.head(head);
  segment.takeCue('tag');
  const isNot = segment.takeNot();
  const since = segment.takeSince(isNot);
  const at = segment.chunks.indexOf(head);
  const words = segment.chunks.slice(Math.max(0, at - 2), at);
  const before = /^(in|from|of|about)$/i.test(words.at(-1)?.text ?? '') ? words[0] : words.at(-1);
  const isAny = /^(any|some|at least one|one|anything|something|any tag|some tag)$/i.test(before?.text ?? '');
  if (isAny) segment.use(before);
  // `bench not renewed` says nothing of the tags about the bench.
  const isNone = isNot && segment.chunks.slice(0, segment.chunks.indexOf(head)).some(({ kind }) => kind === 'not');
  // Its name alone, where it is no word of everyday: `handle with care`
  const isAlone = head.size > 1 && segment.chunks.every((chunk) => chunk === head || chunk.kind === 'filler');
  if (!isNone && (isNot || !(isAny || isAlone))) return undefined;
  const tags = catalogue.all('tag').filter(({ body }) => body.family === family);
  if (tags.length === 0) return undefined;
  return {
    match: isNot ? 'none' : 'any',
    of: tags.map(({ id }) => ({ kind: 'tag', tag: id, op: 'has', ...withSince(since) })),
  };
}

/** All stages from one to another. */
function stagesFrom({ catalogue }: Phrase, ends: readonly number[]): readonly number[] {
  const ladder = catalogue.ladder().map(({ id }) => id);
  const places = ends.map((id) => ladder.indexOf(id));
  return ladder.slice(Math.min(...places), Math.max(...places) + 1);
}

/** Whether they stood there and do not any more, or at any time, which may be now. */
function onceSaid(segment: Segment): 'no more' | 'ever' | undefined {
  const ever = segment.cue('ever');
  if (segment.takeCue('lost') || (ever && NO_MORE.test(ever.text) && segment.takeCue('ever'))) return 'no more';
  const was = segment.chunks.some(({ kind, text }) => kind === 'filler' && /^(was|were)$/i.test(text));
  return segment.takeCue('ever') || saysNever(segment) || was ? 'ever' : undefined;
}

/** Who never was is not, and was not before. */
export const saysNever = (segment: Segment): boolean => segment.chunks.some(({ kind, text }) => kind === 'not' && /^never$/i.test(text));

function onceAt(segment: Segment, stages: readonly number[], once: 'no more' | 'ever', isNot: boolean): Condition | undefined {
  // `customers who were regulars`: the one is so now, the other was.
  if (stages.length > 1 && segment.chunks.slice(1).some(({ text }) => /^(who|that|which)$/i.test(text))) segment.refuse();
  const left: Leaf = { kind: 'change', what: 'stage', from: [...stages], ...withWithin(segment.takeWindow()) };
  return onceIn(
    stages.map((value): Leaf => ({ kind: 'stage', op: 'is', value })),
    left,
    once,
    isNot,
  );
}

/** Where somebody is now or has been: there and no more, or at any time. */
function onceIn(at: readonly Leaf[], left: Leaf, once: 'no more' | 'ever', isNot: boolean): Condition | undefined {
  if (once === 'ever') return { match: isNot ? 'none' : 'any', of: [...at, left] };
  return isNot ? undefined : { match: 'all', of: [left, ...at.map(none)] };
}

const NO_MORE = /^(used to|once had|former|ex\b|previously|in the past|before now)/i;

/** `was in talks but is a customer now`, `quiet now, was eager`: nobody stands at two places at once, so that it went from one to the other. */
function turned<Place>(segment: Segment, [first, second]: readonly Place[]): { readonly from: Place; readonly to: Place } | undefined {
  const indexOf = (words: RegExp): number => segment.chunks.findIndex(({ text }) => words.test(text));
  const was = indexOf(/^(was|were|had been|used to be|formerly|previously)$/i);
  const but = segment.chunks.findIndex(({ kind, text }) => kind === 'joint' && /^but$/i.test(text));
  const at = but >= 0 ? but : was >= 0 ? indexOf(/^(is |are )?(now|currently|today|these days)$/i) : -1;
  if (at < 0 || first === undefined || second === undefined) return undefined;
  segment.takeCue('ever');
  return was > at ? { from: second, to: first } : { from: first, to: second };
}

/** `no stage`: not even at the first one. */
export function noStageLine({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  segment.takeCue('stage');
  const [first] = catalogue.ladder();
  const isNone = segment.takeCue('empty') || segment.takeNot();
  const isThere = !isNone && segment.takeCue('filled');
  if (!first || (!isNone && !isThere)) return undefined;
  return noneIf(isNone, { kind: 'stage', op: 'is at least', value: first.id });
}

/** `was a regular last year`: where somebody stood at a time that is over is not kept. */
const wasThen = ({ chunks }: Segment): boolean =>
  chunks.some(({ kind, text }) => kind === 'filler' && /^(was|were)$/i.test(text)) &&
  chunks.some(({ kind, text, window }) => kind === 'window' && typeof window === 'object' && !/^(since|for)\b/i.test(text));

export function stageLine(phrase: Phrase, segment: Segment): Condition | undefined {
  if (wasThen(segment)) segment.refuse();
  const isAbove = segment.takeWord(/^(after|beyond)$/i) || segment.takeCue('above');
  const isBetween = segment.takeWord(/^between$/i);
  const once = onceSaid(segment);
  segment.takeCue('stage');
  segment.takeCue('oneOf');
  const isBefore = segment.takeCue('below');
  const isReached = !isBefore && segment.takeCue('atLeast');
  const isNot = segment.takeNot();
  const stages = [...new Set(segment.takeAll('stage').map(({ stage }) => stage))];
  const [stage, ...others] = stages;
  if (stage === undefined || (others.length > 0 && (isBefore || isReached))) return undefined;
  if (isAbove) {
    const ladder = phrase.catalogue.ladder().map(({ id }) => id);
    const next = ladder[ladder.indexOf(stage) + 1];
    return next === undefined || others.length > 0 ? undefined : noneIf(isNot, { kind: 'stage', op: 'is at least', value: next });
  }
  const change = others.length === 1 ? turned(segment, stages) : undefined;
  if (change) return isNot || isBefore || isReached ? undefined : { kind: 'change', what: 'stage', from: [change.from], to: [change.to] };
  if (once) return isBefore || isReached ? undefined : onceAt(segment, stages, once, isNot);
  const between = isBetween && others.length === 1 ? stagesFrom(phrase, stages) : stages;
  if (others.length > 0) return noneIf(isNot, { kind: 'stage', op: 'is one of', value: [...between] });
  if (isBefore || isReached) return noneIf(isNot, { kind: 'stage', op: isBefore ? 'is before' : 'is at least', value: stage });
  return noneIf(isNot, { kind: 'stage', op: 'is', value: stage, ...withSince(segment.takeSince(isNot)) });
}

const INTEREST = new RegExp(`^(?:${INTERESTED.join('|')}) `, 'i');

const noneBand = ({ catalogue }: Phrase, scorecard: number): string | undefined =>
  catalogue.body('scorecard', scorecard)?.bands.find(({ key, name }) => key === 'none' || /^none$/i.test(name))?.key;

/** `interested in wheels`: in more than the lowest band. */
function interestIn({ catalogue }: Phrase, scorecard: number, isNot: boolean): Condition | undefined {
  const [lowest, ...higher] = (catalogue.body('scorecard', scorecard)?.bands ?? []).map((band) => band.key);
  const [first, ...others] = isNot && lowest !== undefined ? [lowest] : higher;
  if (first === undefined) return undefined;
  return others.length > 0
    ? { kind: 'band', scorecard, op: 'is one of', value: [first, ...others] }
    : { kind: 'band', scorecard, op: 'is', value: first };
}

export function bandLine(phrase: Phrase, segment: Segment, scorecard: number, head?: Chunk): Condition | undefined {
  segment.head(head);
  if (wasThen(segment)) segment.refuse();
  segment.takeCue('score');
  segment.takeCue('oneOf');
  const how = (['atLeast', 'above', 'below'] as const).find((cue) => segment.takeCue(cue));
  const once = how ? undefined : onceSaid(segment);
  // A band may be called “none”.
  const bandNone =
    head &&
    segment
      .unused()
      .find((chunk) => chunk.kind === 'not' && chunk.meanings.some((each) => each.kind === 'band' && each.scorecard === scorecard));
  const isNot = segment.takeNot(segment.chunks.filter((chunk) => chunk !== bandNone));
  const named = [...new Set(segment.takeAll('band', (meaning) => meaning.scorecard === scorecard).map(({ key }) => key))];
  // No interest is the band that is called none.
  const none = isNot && named.length === 0 && head ? noneBand(phrase, scorecard) : undefined;
  if (none !== undefined) return { kind: 'band', scorecard, op: 'is', value: none };
  if (named.length === 0 && INTEREST.test(head?.text ?? '')) return interestIn(phrase, scorecard, isNot);
  const [key, ...others] = named;
  if (key === undefined || (others.length > 0 && how)) return undefined;
  const change = others.length === 1 ? turned(segment, named) : undefined;
  if (change) {
    const left: Leaf = { kind: 'change', what: 'band', key: scorecard, from: [change.from] };
    return isNot ? undefined : { match: 'all', of: [left, { kind: 'band', scorecard, op: 'is', value: change.to }] };
  }
  if (once)
    return segment.isJoinedBy('and')
      ? undefined
      : onceIn(
          named.map((value): Leaf => ({ kind: 'band', scorecard, op: 'is', value })),
          { kind: 'change', what: 'band', key: scorecard, from: named, ...withWithin(segment.takeWindow()) },
          once,
          isNot,
        );
  const bands = (phrase.catalogue.body('scorecard', scorecard)?.bands ?? []).map((band) => band.key);
  const at = bands.indexOf(key);
  const keys = { atLeast: bands.slice(at), above: bands.slice(at + 1), below: bands.slice(0, at), alone: named }[how ?? 'alone'];
  const [first, ...more] = keys;
  if (first === undefined) return undefined;
  if (more.length > 0) return noneIf(isNot, { kind: 'band', scorecard, op: 'is one of', value: [...keys] });
  return noneIf(isNot, { kind: 'band', scorecard, op: 'is', value: first, ...withSince(segment.takeSince(isNot)) });
}

export function scoreLine(segment: Segment, head: Chunk, scorecard: number): Condition | undefined {
  // `above 40 and rising`: what a score does besides is another line.
  if (segment.chunks.some(({ kind }) => kind === 'joint') && segment.cue('changed')) segment.refuse();
  segment.head(head);
  // `people over 60, keenness rose`
  const before = segment.chunks.slice(0, segment.chunks.indexOf(head));
  if (before.some(({ kind }) => kind === 'limit') && before.some(({ kind }) => kind === 'joint')) segment.refuse();
  segment.takeCues('score');
  const limit = segment.takeLimit();
  return limit && noneIf(segment.takeNot(), { kind: 'score', scorecard, op: limit.op, value: limit.value });
}

export function ownerLine(phrase: Phrase, segment: Segment): Condition | undefined {
  // `café owners` are no contacts that somebody owns.
  if (/^owners$/i.test(segment.cue('owner')?.text ?? '')) segment.refuse();
  const isNamed = segment.takeCue('owner');
  // `tagged by Sol`: who added it says nothing of who looks after them.
  const by = segment.chunks.findIndex(({ text }) => /^by$/i.test(text));
  if (segment.chunks.slice(0, Math.max(0, by)).some(({ cue }) => cue === 'tag')) segment.refuse();
  const isNot = segment.takeNot();
  const addresses = segment.unused().filter((chunk) => chunk.kind === 'free' && chunk.text.includes('@'));
  const people = segment.takeAll('person').map(({ email }) => email);
  segment.use(...addresses);
  const owners = [...new Set([...people, ...addresses.map((chunk) => chunk.text.toLowerCase())])];
  const [owner, ...others] = owners;
  if (owner !== undefined)
    return noneIf(isNot, others.length > 0 ? { kind: 'owner', op: 'is one of', value: owners } : { kind: 'owner', op: 'is', value: owner });
  // Who “me” is, is not always known.
  if (!isNamed || segment.chunks.some(({ text }) => /^(me|my|mine|myself)$/i.test(text))) return undefined;
  const isEmpty = segment.takeCue('empty');
  if (isEmpty || isNot || segment.takeCue('filled')) return { kind: 'owner', op: isEmpty !== isNot ? 'is empty' : 'is filled' };
  const word = segment.unused().find((chunk) => chunk.kind === 'free');
  // Where it is known who has access, nobody else can be an owner.
  if (!word || phrase.catalogue.people !== undefined || phrase.catalogue.colleagues.length > 0) return { kind: 'owner', op: 'is filled' };
  segment.use(word);
  return { kind: 'owner', op: 'is', value: word.text };
}

export function unownedLine(segment: Segment): Condition {
  // Nobody alone is nobody at all.
  if (segment.chunks.every(({ kind, text }) => kind === 'filler' || /^nobody$/i.test(text))) segment.refuse();
  segment.takeCue('unowned');
  return { kind: 'owner', op: segment.takeNot() ? 'is filled' : 'is empty' };
}
