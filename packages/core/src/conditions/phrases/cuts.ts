import { storageOf } from '../../contacts/fields.ts';
import { type Chunk } from './chunks.ts';
import { isPlan, type Phrase } from './lines/phrase.ts';
import { meansIn } from './means.ts';
import { meaningOf } from './meanings.ts';
import { isByAColleague } from './names.ts';
import { stem } from './tokens.ts';
import { GENERAL_NOUNS } from './words/language.ts';

/** `we emailed this month who did not open`: a time with nothing that joins it to what follows belongs to what stands before it. */
export const isAfterthought = (chunks: readonly Chunk[], start: number): boolean =>
  chunks[start]?.kind === 'window' && chunks[start - 1]?.kind !== 'joint' && chunks.slice(start + 1).some(({ kind }) => kind === 'thing');

/** Whether a word says what somebody is: `customer`, `decider` */
const isSomebody = (chunk: Chunk | undefined, { catalogue }: Pick<Phrase, 'catalogue'>): boolean =>
  chunk?.meanings.some(
    (each) =>
      ['stage', 'tag', 'band'].includes(each.kind) || (each.kind === 'option' && catalogue.body('field', each.field)?.of === 'contact'),
  ) ?? false;

const LACKING = /^(without|w\/o|no|lacks?|lacking|except|excluding)$/i;
const BY = /^(by|via)$/i;
/** `started Find your clay`: what stands right behind a verb is what was started, and no line of its own. */
export const isCutOff = (chunks: readonly Chunk[], start: number, phrase: Pick<Phrase, 'catalogue' | 'of'>): boolean => {
  const [verb, name] = [chunks[start - 1], chunks[start]];
  // `a decider who opened a message`: the same person is meant, and not anybody of the company.
  const who = [start - 1, start].find((at) => /^(who|whose)$/i.test(chunks[at]?.text ?? ''));
  if (phrase.of === 'company' && who !== undefined && isSomebody(chunks[who - 1], phrase)) return true;
  // `no customers in Sweden`: none of them lives there.
  const where = [start - 1, start].find((at) => /^(in|from)$/i.test(chunks[at]?.text ?? ''));
  if (phrase.of === 'company' && where !== undefined && isSomebody(chunks[where - 1], phrase)) return true;
  // `whose decider opened a message`
  const whose = chunks.slice(0, start).findLastIndex(({ kind }) => kind !== 'filler');
  if (phrase.of === 'company' && /^whose$/i.test(chunks[whose - 1]?.text ?? '') && isSomebody(chunks[whose], phrase)) return true;
  // `ordered by phone`: no phone is known by that.
  if (meansIn(chunks, phrase.catalogue).some(({ from, to }) => start >= from && start <= to)) return true;
  if (isWhereOrWithWhom(chunks, start, phrase)) return true;
  if (isSaidOfItAlone(chunks, start) || isDoneByAColleague(chunks, start) || isWhereACompanyIs(chunks, start, phrase)) return true;
  // `booked but cancelled`: that was no plan.
  if (/^cancelled$/i.test(chunks.slice(start).find(({ kind }) => kind !== 'filler' && kind !== 'joint')?.text ?? '')) {
    const before = chunks.slice(0, start).findLast((chunk) => meaningOf(chunk, 'signal'));
    const type = before && meaningOf(before, 'signal')?.type;
    if (typeof type === 'number' && /^(event|order)\./.test(phrase.catalogue.get('signalType', type)?.key ?? '')) return true;
  }
  // `only attended Kiln opening`: what stands behind is all that they did it to.
  const done = chunks.slice(0, start).findLast(({ kind }) => kind !== 'filler');
  const isAlone = chunks.some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text));
  if (isAlone && name?.kind !== 'joint' && done && meaningOf(done, 'signal')) return true;
  const [said, next] = [verb?.text ?? '', chunks[start + 1]?.text ?? ''];
  // `bought nothing but clay`: neither of the two says it alone.
  if (/^nothing but$/i.test(said) || /^nothing but$/i.test(name?.text ?? '')) return true;
  // `last purchase was a kiln`: that is what was bought.
  const last = chunks.slice(0, start).findLastIndex(({ kind }) => kind !== 'filler');
  const until = chunks.findIndex(({ kind }, at) => at >= start && kind !== 'filler');
  const isPicked = last > 0 && /^(first|latest)$/.test(chunks[last - 1]?.cue ?? '');
  if (
    isPicked &&
    meaningOf(chunks[last] as Chunk, 'signal') &&
    chunks.slice(last + 1, until).some(({ text }) => /^(was|were|is)$/i.test(text))
  )
    return true;
  if (isOfAField(chunks, start)) return true;
  // `suited or later, not customers`, `rose by 10`: they go with what stands before them.
  if (name?.cue === 'atLeast' && /^(or|and) /i.test(name.text)) return true;
  if (/^by$/i.test(name?.text ?? '') && chunks[start + 1]?.kind === 'limit') return true;
  if ((/^by$/i.test(said) || verb?.cue === 'changed') && name?.kind === 'limit') return true;
  if (isOfTheOneBefore(chunks, start, phrase)) return true;
  if (isDoneToAnother(chunks, start)) return true;
  // `members of Glaze keepers without a phone`: it is the phone that they are without.
  if (name?.kind !== 'joint' && LACKING.test(chunks.slice(0, start).findLast(({ kind }) => kind !== 'filler')?.text ?? '')) return true;
  // `phone consent`, `clicked a link about kilns`, `more than 1,000 at once`: they belong to what stands before them.
  if (/^consent$/i.test(name?.text ?? '') && verb?.kind === 'thing') return true;
  if (/^about$/i.test(said) || /^about$/i.test(name?.text ?? '') || (/^at$/i.test(name?.text ?? '') && /^once$/i.test(next))) return true;
  // `visited wheels not kilns`: it is not the wheels that they did not visit.
  if (verb?.kind === 'not' && /^not$/i.test(said)) return true;
  // `consent by phone`: no channel that there is.
  if (chunks[start - (BY.test(said) ? 2 : 1)]?.cue === 'consent' && (BY.test(said) || BY.test(name?.text ?? ''))) return true;
  // `started a form`: any form, and not how somebody came.
  const isGeneral = GENERAL_NOUNS.has(stem(name?.text.split(' ').at(-1) ?? ''));
  const isName =
    name?.kind === 'thing' && (isGeneral || name.meanings.every(({ kind }) => kind === 'form' || kind === 'message' || kind === 'detail'));
  return isName && verb !== undefined && meaningOf(verb, 'signal') !== undefined && /(ed|bought|got|took)$/i.test(verb.text);
};

/** `cancelled registration`, `cancelled an order`: what was cancelled is no second thing that happened. */
function isDoneToAnother(chunks: readonly Chunk[], start: number): boolean {
  const last = chunks.slice(0, start).findLastIndex(({ kind, text }) => kind !== 'filler' || !ARTICLE.test(text));
  const verb = chunks[last];
  const name = chunks.slice(start).find(({ kind, text }) => kind !== 'filler' || !ARTICLE.test(text));
  return (
    verb !== undefined &&
    /^\w+ed( their)?$/i.test(verb.text) &&
    meaningOf(verb, 'signal') !== undefined &&
    /^(registrations?|orders?|purchases?|bookings?|calls?|meetings?|visits?)$/i.test(name?.text ?? '')
  );
}
const ARTICLE = /^(an?|the|their|his|her|our|one|any)$/i;

const isTest = ({ kind, cue }: Chunk): boolean =>
  ['limit', 'window', 'next', 'filler', 'not'].includes(kind) || (kind === 'cue' && (cue === 'empty' || cue === 'filled'));
const isText = (chunk: Chunk, { catalogue }: Pick<Phrase, 'catalogue'>): boolean =>
  chunk.meanings.length > 0 &&
  chunk.meanings.every((each) => each.kind === 'field' && storageOf[catalogue.body('field', each.field)?.type ?? 'number'] === 'text');
const isNoun = ({ text }: Chunk): boolean => GENERAL_NOUNS.has(stem(text));
const isNumber = (chunk: Chunk, { catalogue }: Pick<Phrase, 'catalogue'>): boolean =>
  chunk.meanings.some(
    (each) =>
      each.kind === 'scorecard' || (each.kind === 'field' && storageOf[catalogue.body('field', each.field)?.type ?? 'text'] === 'number'),
  );

/** Whether what stands here goes with what stands before it, since nothing joins it to that. */
function isOfTheOneBefore(chunks: readonly Chunk[], start: number, phrase: Pick<Phrase, 'catalogue'>): boolean {
  const [one, before, here] = [chunks[start - 2], chunks[start - 1], chunks[start]];
  if (!before || !here || before.kind === 'joint' || here.kind === 'joint') return false;
  // `registered twice, never came`, `I called them this month, eager`: how often, how much and when
  const rest = chunks.slice(start);
  const last = chunks.slice(0, start).findLast(({ kind }) => kind !== 'filler');
  // `customers with no order in 90 days, and eager`: with nothing done before it an order is what happened.
  const isOfIt = (chunk: Chunk): boolean =>
    isNoun(chunk) && (!meaningOf(chunk, 'signal') || (last && meaningOf(last, 'signal')) !== undefined);
  const end = rest.findIndex((chunk) => !isTest(chunk) && !isOfIt(chunk));
  if (end > 0 && rest.slice(0, end).some(({ kind }) => kind !== 'filler') && rest[end]?.kind === 'joint') return true;
  // `opted out of email`, `deal in quote`, `phone contains 070`
  if (/ (of|to|for|in|at|with)$/i.test(before.text) || (last?.cue === 'deal' && here.kind !== 'not')) return true;
  if (here.cue === 'contains' || here.cue === 'starts' || here.cue === 'ends') return true;
  // `company turnover over a million`
  if (here.kind === 'limit' && isNumber(before, phrase)) return true;
  // `more than 40 seats`, `came from campaign spring-fair`
  if (before.kind === 'limit' && isNumber(here, phrase)) return true;
  if (isText(before, phrase) && (here.kind === 'free' || here.kind === 'thing')) return true;
  // `registered for the raku evening, plan is Kiln`
  const next = rest.find(({ kind }) => kind !== 'filler');
  const isObject =
    next?.kind === 'free' || (next?.kind === 'thing' && next.meanings.every(({ kind }) => kind === 'family' || kind === 'detail'));
  if (isObject && last && meaningOf(last, 'signal') && /(ed|bought|got|took| for| to| at| in| their)$/i.test(last.text)) return true;
  // `bought 3 kilns`
  if (
    one &&
    meaningOf(one, 'signal') &&
    before.limit &&
    !before.limit.isSaid &&
    before.limit.of === undefined &&
    !meaningOf(here, 'signal')
  )
    return true;
  // `answered Tableware enquiry for more than 100 pieces`: that is no deal.
  const asked = rest.find(({ kind }) => kind !== 'filler' && kind !== 'limit');
  if (asked && meaningOf(asked, 'fieldOfDeals') && last && meaningOf(last, 'form')) return true;
  // `rose above curious`
  if (before.cue === 'changed' && /^(above|below|atLeast|to|from)$/.test(here.cue ?? '')) return true;
  // `strong wheel interest, reached customer`: what changed stands behind that.
  return before.cue === 'changed' && one?.kind === 'joint';
}

/** `owner of the company`, `may be called`, `something other than clay`: neither half says anything by itself. */
function isSaidOfItAlone(chunks: readonly Chunk[], start: number): boolean {
  const last = chunks.slice(0, start).findLast(({ kind }) => kind !== 'filler');
  const at = chunks.findIndex(({ kind }, index) => index >= start && kind !== 'filler');
  const here = chunks[at];
  if (!last || !here) return false;
  const between = chunks.slice(chunks.indexOf(last) + 1, at);
  if (here.cue === 'company' && between.some(({ text }) => /^of$/i.test(text)) && /^(owner|stage|score)$/.test(last.cue ?? '')) return true;
  if (last.cue === 'consent' && / be$/i.test(last.text) && meaningOf(here, 'signal')) return true;
  return /^other than$/i.test(here.text) && [last, ...between].some(({ text }) => /\b(something|anything|things?|items?)$/i.test(text));
}

/** `whose company is in Norway`: where they live themselves is not said. */
function isWhereACompanyIs(chunks: readonly Chunk[], start: number, { catalogue }: Pick<Phrase, 'catalogue'>): boolean {
  const at = chunks.findIndex(
    ({ kind, text }, index) => index >= start && (kind !== 'filler' || /^(who|whose|lives?|living)$/i.test(text)),
  );
  if (chunks[at]?.kind === 'joint') return false;
  const company = chunks.slice(0, Math.max(0, at)).findLastIndex(({ kind }) => kind !== 'filler');
  const between = chunks.slice(company + 1, at).map(({ text }) => text);
  const isOfContacts = chunks[at]?.meanings.some((each) => each.kind === 'option' && catalogue.body('field', each.field)?.of !== 'company');
  return isOfContacts === true && chunks[company]?.cue === 'company' && between.some((text) => /^(in|from|based|located)$/i.test(text));
}

/** `tagged glaze buyer by Sol`: who added a tag is not who looks after them. */
function isTaggedBy(chunks: readonly Chunk[], start: number): boolean {
  const by = [start - 1, start].find((at) => /^by$/i.test(chunks[at]?.text ?? ''));
  const before = chunks.slice(0, by ?? 0);
  return before.slice(before.findLastIndex(({ kind }) => kind === 'joint') + 1).some(({ cue }) => cue === 'tag');
}

/** Whether what stands here and before it is what a colleague did, and not whose they are. */
const isDoneByAColleague = (chunks: readonly Chunk[], start: number): boolean =>
  isTaggedBy(chunks, start) ||
  [start - 2, start - 1, start].some((at) => {
    const done = chunks[at];
    return done !== undefined && meaningOf(done, 'signal') !== undefined && isByAColleague(chunks, done);
  });

/** `with a phone known`, `with email at guild.example`: more is asked of it than that it is there. */
const isTestedBehind = (chunks: readonly Chunk[], at: number): boolean => {
  const behind = chunks.slice(at + 1).find(({ kind, text }) => kind !== 'filler' || /^(is|are|at)$/i.test(text));
  return behind !== undefined && behind.kind !== 'joint' && behind.kind !== 'window';
};

/** `ordered at the fair`, `attended with a friend`: where something was done, and with whom, is not what somebody is. */
function isWhereOrWithWhom(chunks: readonly Chunk[], start: number, phrase: Pick<Phrase, 'catalogue'>): boolean {
  const before = chunks.slice(0, start);
  const saysNothing = ({ kind, cue, text }: Chunk): boolean =>
    kind === 'filler' || cue === 'to' || cue === 'from' || /^from an?$/i.test(text);
  const last = before.findLastIndex((chunk) => !saysNothing(chunk));
  const at = chunks.findIndex((chunk, index) => index >= start && !saysNothing(chunk));
  const isChoice = chunks[at]?.meanings.some(({ kind }) => kind === 'option') === true && chunks[at]?.cue === undefined;
  const isDone = before.slice(before.findLastIndex(({ kind }) => kind === 'joint') + 1).some((chunk) => meaningOf(chunk, 'signal'));
  const between = chunks.slice(last + 1, at);
  if (between.some(({ kind }) => kind === 'joint')) return false;
  // `called from a mobile`, `met us about a kiln`: that they have one is not said.
  const isThing = chunks[at]?.meanings.some(({ kind }) => kind === 'field') === true;
  // `called about an order`, `met about the deal`
  if (isDone && at >= 0 && between.some(({ text }) => /^(about|regarding|concerning)$/i.test(text))) return true;
  // `opened with their phone`
  const isBare = chunks[at] !== undefined && !isTestedBehind(chunks, at);
  if (isDone && isThing && isBare && isText(chunks[at] as Chunk, phrase) && between.some(({ text }) => /^with$/i.test(text))) return true;
  if (isDone && isThing && between.some(({ text }) => /^(at|for|on|during|from( an?)?|by|about|via|over)$/i.test(text))) return true;
  // `called a friend`: whom or what it was done to.
  const verb = before[last];
  const isObject = verb !== undefined && meaningOf(verb, 'signal') !== undefined && /(ed|met|bought)$/i.test(verb.text);
  const isAThing = /^an? /i.test(chunks[at]?.text ?? '') || (between.length > 0 && between.every(({ text }) => /^an?$/i.test(text)));
  if (isObject && isChoice && isAThing) return true;
  return isDone && isChoice && between.some(({ text }) => /^(at|with|for|on|during|to)$/i.test(text));
}

/** `first campaign is spring`, `plan is Kiln`: what stands behind the "is" is what a fact is, whatever else is called so. */
function isOfAField(chunks: readonly Chunk[], start: number): boolean {
  const at = chunks.slice(0, start).findLastIndex(({ kind }) => kind !== 'filler');
  const next = chunks.findIndex(({ kind }, index) => index >= start && kind !== 'filler');
  const head = chunks[at];
  const isNamed = head && (meaningOf(head, 'field') ?? isPlan(head));
  return Boolean(isNamed) && next >= 0 && chunks.slice(at + 1, next).some(({ text }) => /^(is|are|=|:)$/i.test(text));
}
