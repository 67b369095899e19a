import { type ConsentChannel, type ConsentState } from '../../../settings/consent.ts';
import { type Condition, type Leaf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { detailIs, isForbidden, NEVER, none, noneIf, partsOf, type Phrase } from './phrase.ts';

const CHANNELS: readonly (readonly ['email' | 'textChannel' | 'chat', ConsentChannel, RegExp])[] = [
  ['email', 'email', /\b(e-?mailed|mailed)$/i],
  ['textChannel', 'text', /\btexted$/i],
  ['chat', 'chat', /^chatted$/i],
];

/** `cannot be texted` */
export const isToBeTexted = ({ cue, text }: Chunk): boolean => cue === 'textChannel' && /^be /i.test(text);

/** `opted out of email last quarter`: when it was, and not how it stands. */
function dated(
  catalogue: Phrase['catalogue'],
  segment: Segment,
  {
    isNot,
    isWithdrawn,
    channels,
  }: { readonly isNot: boolean; readonly isWithdrawn: boolean; readonly channels: readonly ConsentChannel[] },
): Condition | undefined {
  const isDone = segment.chunks.some(({ cue, text }) => (cue === 'consent' || cue === 'withdrawn' || cue === 'filled') && DONE.test(text));
  const type = catalogue.find('signalType', isWithdrawn ? 'consent.withdrawn' : 'consent.given');
  const within = isDone && type ? segment.takeWindow() : undefined;
  if (!type || within === undefined) return undefined;
  const where = channels.length > 0 ? { where: [detailIs('channel', channels)] } : {};
  return { kind: 'signal', type: type.id, ...where, ...(isNot ? { count: NEVER } : {}), within };
}
const DONE = /^(opted|consented|subscribed|agreed|gave|withdrew|revoked|unsubscribed|given|withdrawn)\b/i;

/** `email undeliverable but may not be texted`: of each channel something of its own. */
const saysHowItStands = (part: readonly Chunk[]): boolean =>
  part.some(
    (chunk) =>
      chunk.cue === 'consent' ||
      chunk.cue === 'withdrawn' ||
      chunk.cue === 'undeliverable' ||
      isToBeTexted(chunk) ||
      (CHANNELS.some(([cue]) => cue === chunk.cue) && isForbidden(part, chunk)),
  );

/** `subscribed to the newsletter`, `no consent to email or text` */
export function consentLine({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  const isSaid =
    segment.cue('consent', 'withdrawn', 'undeliverable') !== undefined ||
    segment.chunks.some(isToBeTexted) ||
    segment.chunks.some((chunk) => CHANNELS.some(([cue]) => cue === chunk.cue) && isForbidden(segment.chunks, chunk));
  const named = segment.chunks.flatMap((chunk) => {
    const channel = CHANNELS.find(([cue, , said]) => cue === chunk.cue || (isSaid && said.test(chunk.text)))?.[1];
    // `we texted them`: that was done.
    return channel && !segment.isUsed(chunk) && !/^we\b/i.test(chunk.text) ? [{ chunk, channel }] : [];
  });
  const not = segment.chunks.find(({ kind }) => kind === 'not');
  // `no consent to email but consent to text` are two lines.
  const words = segment.chunks.filter(({ kind }) => kind !== 'filler' && kind !== 'not');
  if (words.some(({ kind }, index) => kind === 'joint' && words[index + 1]?.cue === 'consent')) segment.refuse();
  if (partsOf(segment.chunks).filter((part) => saysHowItStands(part)).length > 1) segment.refuse();
  // `text allowed, email not`: what stands behind is said of the last alone.
  if (named.length > 1 && words.length > 0 && segment.chunks.filter(({ kind }) => kind !== 'filler').at(-1)?.kind === 'not')
    segment.refuse();
  // `opted out of email, silent for 60 days`, `consent to email and opted out of texts`: two lines.
  const silence = segment.cue('empty');
  if (silence?.meanings.some(({ kind }) => kind === 'signal')) segment.refuse();
  if (segment.cue('consent') && segment.cue('withdrawn') && segment.chunks.some(({ kind }) => kind === 'joint')) segment.refuse();
  // `subscribed to the newsletter or cannot be texted`
  if (
    words.some(({ joint }) => joint === 'or') &&
    not !== undefined &&
    named.some(({ chunk }) => segment.chunks.indexOf(chunk) < segment.chunks.indexOf(not))
  )
    segment.refuse();
  segment.join(named.map(({ chunk }) => chunk));
  const isWithdrawn = segment.takeCue('withdrawn');
  const isUndeliverable = segment.takeCue('undeliverable');
  const empty = segment.cue('empty');
  segment.use(empty);
  const isNotGiven = /^not given$/i.test(empty?.text ?? '');
  const isUnknown = empty !== undefined && !isNotGiven;
  const isGiven = segment.takeCue('filled', 'yes');
  segment.takeCues('consent');
  if (!isSaid && !empty && !isGiven) return undefined;
  const isNot = segment.takeNot() !== isNotGiven;
  const value: ConsentState = isWithdrawn ? 'withdrawn' : isUndeliverable ? 'undeliverable' : isUnknown ? 'unknown' : 'given';
  const said = [...new Set(named.map(({ channel }) => channel))];
  const when = dated(catalogue, segment, { isNot, isWithdrawn, channels: [...new Set(named.map(({ channel }) => channel))] });
  if (when) return when;
  const denied = segment.chunks.findIndex(({ kind, cue }) => kind === 'not' || cue === 'empty');
  const anyway = segment.chunks.find(
    ({ kind, text }, at) => at > denied && kind !== 'thing' && /^(at all|all|any|whatsoever)$/i.test(text),
  );
  // `no consent at all`: to none of the ways in which somebody can be written to.
  const channels = said.length === 0 && isNot && anyway ? CHANNELS.map(([, channel]) => channel) : said;
  if (isNot) segment.use(anyway);
  // `to email but not to text`: what stands before the "not" is so.
  const before = not
    ? named.filter(({ chunk }) => segment.chunks.indexOf(chunk) < segment.chunks.indexOf(not)).map(({ channel }) => channel)
    : [];
  if (isNot && before.length > 0 && before.length < channels.length)
    return {
      match: 'all',
      of: channels.map((channel) => noneIf(!before.includes(channel), { kind: 'consent', channel, op: 'is', value })),
    };
  const lines = (channels.length > 0 ? channels : (['email'] as const)).map((channel): Leaf => ({
    kind: 'consent',
    channel,
    op: 'is',
    value,
  }));
  const [line, ...others] = lines;
  if (channels.length === 1 && segment.chunks.some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text)))
    return isNot
      ? undefined
      : {
          match: 'all',
          of: [
            ...lines,
            ...CHANNELS.map(([, each]) => each)
              .filter((each) => !channels.includes(each))
              .map((channel) => none({ kind: 'consent', channel, op: 'is', value })),
          ],
        };
  if (line && others.length === 0) return noneIf(isNot, line);
  // No consent to either is none to both.
  if (isNot) return { match: 'all', of: lines.map(none) };
  return { match: segment.isJoinedBy('or') ? 'any' : 'all', of: lines };
}
