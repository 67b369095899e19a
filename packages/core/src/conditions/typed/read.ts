import { bad, good, type Checked } from '../../faults.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { normalise } from '../normalise.ts';
import { opposite } from '../opposite.ts';
import { prepare } from '../prepare/prepare.ts';
import { nothingSaid, readPhrase, type Readings } from '../phrases/phrases.ts';
import { isGroup, type Leaf } from '../schema.ts';
import { type SubjectKind } from '../../settings/subject-kind.ts';
import { type Instant } from '../../time/zone.ts';
import { Cursor, type Completion } from './cursor.ts';
import { LineReader } from './line.ts';
import { readSaid } from './said/lines.ts';

export interface ReadLine {
  /** the line as it is written, or else the likeliest reading of it that leaves out nothing */
  readonly leaf: Checked<Leaf>;
  /** in which ways it can be meant, the likeliest first, and which words are not known; a line as it is written has one meaning */
  readonly said: Readings;
  /** what could come next, and the place in the text from which it would stand */
  readonly completions: { readonly from: number; readonly offers: readonly Completion[] };
}

/**
 * Reads a line as it is typed: as it is written, or as people say it. A `!` at its beginning turns a written line into its opposite.
 *
 * @param of what the line will be asked of
 * @param now without it, days and months without their year say nothing
 *
 * @example read('ordered an item whose line is glaze, at least twice in the last 30 days', catalogue).leaf
 */
export function read(text: string, catalogue: Catalogue, of: SubjectKind = 'contact', now?: Instant): ReadLine {
  const written = readWritten(text, catalogue, of);
  // An exclamation mark turns a line as it is written; in what people say it means nothing.
  if (text.trimStart().startsWith('!')) return { ...written, said: nothingSaid };
  if (written.leaf.ok) return { ...written, said: { ...nothingSaid, readings: [{ condition: written.leaf.value, unread: [], score: 0 }] } };
  const said = readPhrase(text, catalogue, { of, ...(now === undefined ? {} : { now }) });
  const whole = said.readings.find(({ unread }) => unread.length === 0)?.condition;
  return { ...written, ...(whole && !isGroup(whole) ? { leaf: good(whole) } : {}), said };
}

interface Written {
  readonly cursor: Cursor;
  readonly leaf: Leaf | undefined;
}
const isWhole = ({ cursor, leaf }: Written): boolean => leaf !== undefined && cursor.done;

/** Reads a line as it is said on every page, or in the short form in which documents may hold it, and in no other words. */
function readWritten(text: string, catalogue: Catalogue, of: SubjectKind): Omit<ReadLine, 'said'> {
  const begin = /^\s*!/.exec(text)?.[0].length ?? 0;
  const readBy = (leaf: (cursor: Cursor) => Leaf | undefined): Written => {
    const cursor = new Cursor(text);
    cursor.at = begin;
    return { cursor, leaf: leaf(cursor) };
  };
  const said = readBy((cursor) => readSaid({ cursor, catalogue }, of));
  const short = isWhole(said) ? said : readBy((cursor) => new LineReader(cursor, catalogue).leaf());
  // What is offered next goes on with whichever form was typed so far.
  const isShort = !isWhole(said) && (isWhole(short) || short.cursor.furthest > said.cursor.furthest);
  const [{ cursor, leaf }, other] = isShort ? [short, said] : [said, short];
  const own = cursor.completions();
  const completions = own.offers.length > 0 ? own : other.cursor.completions();
  if (leaf === undefined || !cursor.done) {
    const at = leaf === undefined ? cursor.furthest : cursor.at;
    const expected = completions.offers.slice(0, 5).map((offer) => offer.text);
    return {
      leaf: bad({
        path: [at],
        code: 'line.unread',
        expected: expected.length > 0 ? expected.join(' · ') : `nothing more after "${text.slice(0, at).trim()}"`,
      }),
      completions,
    };
  }
  const checked = begin > 0 ? opposite(leaf) : leaf;
  if (!checked) {
    const expected = 'a line that has an opposite: say this one in a group of which none holds';
    return { leaf: bad({ path: [0], code: 'line.no-opposite', expected }), completions };
  }
  const node = prepare(checked, catalogue, of);
  return { leaf: node.ok ? good(normalise(checked, catalogue) as Leaf) : node, completions };
}
