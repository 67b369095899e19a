import { type Catalogue } from '../../settings/catalogue.ts';
import { localDay } from '../../time/zone.ts';
import { type Chunk } from './chunks.ts';
import { type LineReading, type Phrase } from './lines/phrase.ts';

type Read = (chunks: readonly Chunk[]) => LineReading | undefined;

/** So many pieces of phrases are kept for a workspace. */
const MOST = 5_000;
const kept = new WeakMap<Catalogue, Map<string, LineReading | undefined>>();

/** All that a reading depends on. */
const written = ({ kind, text, typed, cue, joint, window, limit, isOpen, size, meanings }: Chunk): string =>
  [
    kind,
    typed,
    text === typed ? '' : text,
    cue,
    joint,
    size,
    meanings.length > 0 && JSON.stringify(meanings),
    isOpen,
    window && JSON.stringify(window),
    limit && JSON.stringify(limit),
  ].join('\t');

/**
 * Reads the same pieces once: lines that are cut in several ways have most of them in common, and so has what was typed a key before.
 *
 * @param read leaves out no word
 */
export function keptParts({ catalogue, of, today }: Phrase, read: Read): Read {
  const parts = kept.get(catalogue) ?? new Map<string, LineReading | undefined>();
  kept.set(catalogue, parts);
  const when = `${of} ${today ? localDay(today.now, today.zone) : ''}`;
  const keys = new Map<Chunk, string>();
  const keyOf = (chunk: Chunk): string => {
    const key = keys.get(chunk) ?? written(chunk);
    keys.set(chunk, key);
    return key;
  };
  return (chunks) => {
    const key = [when, ...chunks.map((chunk, at) => `${chunks[at - 1]?.to === chunk.from ? '-' : ' '}${keyOf(chunk)}`)].join('\n');
    if (parts.has(key)) return parts.get(key);
    const reading = read(chunks);
    if (parts.size >= MOST) parts.clear();
    parts.set(key, reading);
    return reading;
  };
}
