import { EXPECTED_CLOSE, storageOf, type FieldType } from '../../../contacts/fields.ts';
import { type Condition, type Count, type DetailLeaf } from '../../schema.ts';
import { type Limit } from '../limits.ts';
import { meaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { bounded, datedAhead } from './dates.ts';
import { countOf, detailIs, isOfSomebody, NEVER, type Phrase } from './phrase.ts';

/** From here on a bare number is what a deal is worth, and no number of deals. */
const WORTH_FROM = 100;
const CLOSING = /^(close|closes|closing|due|expected)$/i;

/** Deals that somebody has: at which stage, of what worth, whether they are still open, and by when they are to close. */
export function dealLine(phrase: Phrase, segment: Segment): Condition | undefined {
  const counted = segment.chunks.some((chunk, index) => chunk.kind === 'limit' && segment.chunks[index + 1]?.cue === 'deal');
  const isOpen = segment.chunks.some(({ cue, text }) => cue === 'deal' && /\bopen\b/i.test(text)) || takeOpen(segment);
  segment.takeCues('deal');
  // `companies without deals`
  segment.takeWord(/^compan(y|ies)$/i);
  segment.takeCue('stage');
  const isNot = segment.takeNot();
  segment.use(segment.unused().find(({ window }) => window === 'ever'));
  const pipelines = segment.takeAll('pipeline').map(({ key }) => key);
  const fields = byFields(phrase, segment);
  if (!fields) return undefined;
  const closes = closingDate(phrase, segment);
  const opened = openedAgo(segment);
  segment.takeWord(/^(amount|worth|value)$/i);
  // `people over 60, deal in quote`
  if (segment.unused().some((chunk) => chunk.kind === 'limit' && isOfSomebody(segment.chunks, chunk))) segment.refuse();
  const limit = segment.takeLimit();
  // `deal in quote for 14 days`: so many days are no number of deals.
  if (limit?.of === 'days') segment.refuse();
  // What several are worth together is asked of no deal.
  if (limit && segment.chunks.some(({ text }) => /^(total|altogether|overall|together)$/i.test(text))) segment.refuse();
  const isMoney = limit !== undefined && (limit.of === 'money' || (!counted && Math.max(...[limit.value].flat()) >= WORTH_FROM));
  const stages = segment.unused().flatMap((chunk) => {
    const key = dealStage(phrase, chunk.text);
    return key === undefined ? [] : [{ chunk, key }];
  });
  segment.join(stages.map(({ chunk }) => chunk));
  const keys = stages.map(({ key }) => key);
  // When it was won is told by what happened.
  const isWon = keys.length === 0 && !isOpen && segment.takeWord(/^won$/i);
  if (keys.length === 0 && !isOpen && fields.length + closes.length + opened.length + pipelines.length === 0) {
    const happened = happenedWithin(phrase, segment, { isWon, isNot, limit, isMoney });
    if (happened) return happened;
  }
  const where: DetailLeaf[] = [
    ...(pipelines.length > 0 ? [detailIs('pipeline', pipelines)] : []),
    ...fields,
    ...(isOpen ? [detailIs('outcome', ['open'])] : isWon ? [detailIs('outcome', ['won'])] : []),
    ...(keys.length > 0 ? [detailIs('stage', keys)] : []),
    ...(limit && isMoney ? [{ path: 'amount', op: limit.op, value: limit.value }] : []),
    ...opened,
    ...(isOpen && opened.length === 0 ? openFor(segment) : []),
    ...closes,
    ...(keys.length > 0 && closes.length === 0 ? sinceMoved(phrase, segment) : []),
  ];
  const count: Count | undefined = isNot ? NEVER : limit && !isMoney ? countOf(limit) : undefined;
  return { kind: 'deal', ...(where.length > 0 ? { where } : {}), ...(count ? { count } : {}) };
}

/** `open tableware deals`: which of them they are stands between. */
function takeOpen(segment: Segment): boolean {
  const at = segment.chunks.findIndex(({ text }) => /^open$/i.test(text));
  const said = segment.chunks.slice(0, at).findLast(({ text }) => !/^(still|yet|now)$/i.test(text));
  // `deals over 20,000 that are still open`
  // `deal open for 60 days`
  const isLong = said?.cue === 'deal' && /^for\b/i.test(segment.chunks[at + 1]?.text ?? '');
  const isBehind =
    isLong || /^(is|are|that|which|still)$/i.test(said?.text ?? '') || (said?.text === ',' && at === segment.chunks.length - 1);
  if (at > 0 && isBehind && segment.chunks.slice(0, at).some(({ cue }) => cue === 'deal')) {
    segment.use(segment.chunks[at]);
    return true;
  }
  const behind = segment.chunks.slice(at + 1);
  const deal = behind.findIndex(({ cue }) => cue === 'deal');
  if (at < 0 || deal < 1 || !behind.slice(0, deal).every((chunk) => chunk.kind === 'filler' || meaningOf(chunk, 'pipeline'))) return false;
  segment.use(segment.chunks[at]);
  return true;
}

/** `pieces over 100`, `expected close this month`: what is asked of the fields that deals have. @returns nothing where it is not clear */
function byFields(phrase: Phrase, segment: Segment): DetailLeaf[] | undefined {
  const named = segment.unused().filter((chunk) => meaningOf(chunk, 'fieldOfDeals'));
  const leaves: DetailLeaf[] = [];
  for (const chunk of named) {
    const field = phrase.catalogue.get('field', meaningOf(chunk, 'fieldOfDeals')?.field ?? 0);
    if (!field) return undefined;
    segment.use(chunk);
    const leaf = fieldTest(phrase, segment, field.key, storageOf[field.body.type]);
    if (!leaf) return undefined;
    leaves.push(leaf);
  }
  return leaves;
}

function fieldTest(phrase: Phrase, segment: Segment, path: string, storage: (typeof storageOf)[FieldType]): DetailLeaf | undefined {
  const isNot = segment.takeCue('empty');
  if (isNot || segment.takeCue('filled')) return { path, op: isNot ? 'is empty' : 'is filled' };
  if (storage === 'number') {
    const limit = segment.takeLimit();
    return limit && { path, op: limit.op, value: limit.value };
  }
  if (storage !== 'day' && storage !== 'instant') return undefined;
  const dated = datedAhead(phrase, segment);
  return dated && ({ path, op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) } as DetailLeaf);
}

/** `a deal closing this month`: by when it is expected to. */
function closingDate(phrase: Phrase, segment: Segment): DetailLeaf[] {
  const words = segment.unused().filter(({ text }) => CLOSING.test(text));
  if (words.length === 0) return [];
  const dated = datedAhead(phrase, segment);
  if (!dated) return [];
  segment.use(...words);
  return [{ path: EXPECTED_CLOSE, op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) } as DetailLeaf];
}

const UNITS: Readonly<Record<string, 'days' | 'weeks' | 'months' | 'years'>> = { d: 'days', w: 'weeks', m: 'months', y: 'years' };

/** `open deals older than 60 days`: how long ago they were opened. */
function openedAgo(segment: Segment): DetailLeaf[] {
  const chunk = segment.unused().find(({ kind, text }) => kind === 'limit' && /^(older|younger)\b/i.test(text));
  const behind = chunk && segment.chunks[segment.chunks.indexOf(chunk) + 1];
  // `leads older than 30 days, won deals`: it is not the deals that are so old.
  if (chunk && !segment.chunks.slice(0, segment.chunks.indexOf(chunk)).some(({ cue }) => cue === 'deal')) segment.refuse();
  const n = chunk?.limit?.value;
  const isUnit = chunk?.limit?.of !== 'days' && /^(days?|weeks?|months?|years?)$/i.test(behind?.text ?? '');
  const unit = chunk?.limit?.of === 'days' ? 'days' : isUnit ? UNITS[behind?.text[0]?.toLowerCase() ?? ''] : undefined;
  if (typeof n !== 'number' || unit === undefined) return [];
  segment.use(chunk, isUnit ? behind : undefined);
  return [{ path: 'opened', op: /^older/i.test(chunk?.text ?? '') ? 'more than ago' : 'within the last', value: { n, unit } }];
}

/** `open for more than 60 days`: it was opened so long ago. */
function openFor(segment: Segment): DetailLeaf[] {
  if (!segment.unused().some(({ kind, text }) => kind === 'window' && /^for\b/i.test(text))) return [];
  const since = segment.takeSince(false);
  if (typeof since !== 'object') return [];
  if ('olderThan' in since) return [{ path: 'opened', op: 'more than ago', value: { n: since.olderThan, unit: since.unit } }];
  return 'last' in since ? [{ path: 'opened', op: 'within the last', value: { n: since.last, unit: since.unit } }] : [];
}

interface Said {
  readonly isWon: boolean;
  readonly isNot: boolean;
  readonly limit: Limit | undefined;
  readonly isMoney: boolean;
}

/** `no deal in the last 12 months`, `won deals over 30,000 this year`: within a time deals are opened or won. */
function happenedWithin({ catalogue }: Phrase, segment: Segment, { isWon, isNot, limit, isMoney }: Said): Condition | undefined {
  const type = catalogue.find('signalType', isWon ? 'deal.won' : 'deal.opened')?.id;
  // Which deals of a time are meant that were not won nobody said, unless there were none.
  if (type === undefined || !(isWon || (isNot && !limit)) || !segment.unused().some(({ kind }) => kind === 'window')) return undefined;
  const within = segment.takeWindow();
  return {
    kind: 'signal',
    type,
    ...(limit && isMoney ? { where: [{ path: 'amount', op: limit.op, value: limit.value }] } : {}),
    ...(within === undefined ? {} : { within }),
    ...(isNot ? { count: NEVER } : limit && !isMoney ? { count: countOf(limit) } : {}),
  };
}

/** `in samples for more than 2 weeks`: since when it has stood at its stage. */
function sinceMoved(phrase: Phrase, segment: Segment): DetailLeaf[] {
  const since = segment.takeSince(false);
  if (since === undefined || since === 'ever') return [];
  if ('olderThan' in since) return [{ path: 'moved', op: 'more than ago', value: { n: since.olderThan, unit: since.unit } }];
  if ('last' in since) return [{ path: 'moved', op: 'within the last', value: { n: since.last, unit: since.unit } }];
  const dated = bounded(phrase, since, false);
  return dated ? [{ path: 'moved', op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) } as DetailLeaf] : [];
}

const dealStage = ({ catalogue }: Phrase, text: string): string | undefined =>
  catalogue
    .all('pipeline')
    .flatMap((pipeline) => pipeline.body.stages)
    .find((stage) => [stage.name, stage.key].some((name) => name.toLowerCase() === text.toLowerCase()))?.key;
