import { isGroup, type Condition, type Leaf } from '../schema.ts';
import { type Chunk } from './chunks.ts';

/** A comma alone may mean either; one before "and" or "but" parts more than they do: `A or B, but C` */
export type Joint = 'and' | 'or' | 'comma' | 'apart';

/** Lines, and what joins each to the one before. */
export interface Lines {
  readonly lines: readonly Condition[];
  readonly joints: readonly Joint[];
}

/** `throws, builds by hand, or slip casts`: a comma before the "or" says that those before it stand for the same. */
export function inSeries(chunks: readonly Chunk[]): readonly Chunk[] {
  const isComma = ({ kind, text }: Chunk): boolean => kind === 'joint' && text === ',';
  const last = chunks.findIndex((chunk, at) => isComma(chunk) && chunks[at + 1]?.joint === 'or');
  const other = chunks.slice(0, Math.max(0, last)).findLastIndex((chunk) => chunk.kind === 'joint' && !isComma(chunk));
  // `opened, clicked, or replied this week`: as without that comma, so that what follows is said of them all.
  const pieces = piecesOf(chunks.slice(other + 1, Math.max(0, last)), isComma);
  if (pieces.length > 1 && pieces.every(isVerbAlone) && chunks[last + 2]?.meanings.some(({ kind }) => kind === 'signal'))
    return chunks.toSpliced(last, 1);
  return chunks.map((chunk, at) => (at > other && at < last && isComma(chunk) ? { ...chunk, joint: 'or' } : chunk));
}

function piecesOf(chunks: readonly Chunk[], isBetween: (chunk: Chunk) => boolean): readonly (readonly Chunk[])[] {
  const pieces: Chunk[][] = [[]];
  for (const chunk of chunks)
    if (isBetween(chunk)) pieces.push([]);
    else pieces.at(-1)?.push(chunk);
  return pieces;
}

/** `opened`, `never opened`, `people who opened` */
function isVerbAlone(piece: readonly Chunk[]): boolean {
  const said = piece.filter(({ kind }) => kind !== 'filler' && kind !== 'not');
  return said.length === 1 && said[0]?.meanings.some(({ kind }) => kind === 'signal') === true;
}

/** "And" binds closer than "or", and a comma between lines of several kinds less: `customers, bought glaze or attended a class` */
export function joined({ lines: given, joints: said }: Lines): Condition {
  const joints = said.map((joint, at): Joint => (joint === 'comma' && isOfSeries(given, said, at) ? 'or' : joint));
  const lines = given.map((line, at) =>
    said[at] === 'comma' && joints[at] === 'or' ? atTheTimeOf(line, given[endOfCommas(said, at)]) : line,
  );
  const parts: { lines: Condition[]; joints: Joint[] }[] = [];
  for (const [index, line] of lines.entries()) {
    const part = parts.at(-1);
    const joint = joints[index - 1] ?? 'and';
    if (part && joint !== 'comma' && joint !== 'apart') {
      part.lines.push(line);
      part.joints.push(joint);
    } else parts.push({ lines: [line], joints: [] });
  }
  return allOf(parts.flatMap((part) => inOneGo(part)));
}

const endOfCommas = (joints: readonly Joint[], at: number): number => (joints[at] === 'comma' ? endOfCommas(joints, at + 1) : at);

/** `opened, clicked or replied`: things of one kind with an "or" before the last stand for each other, whatever parts them. */
function isOfSeries(lines: readonly Condition[], joints: readonly Joint[], at: number): boolean {
  const end = endOfCommas(joints, at);
  const [some, last] = [lines.slice(at, end + 1), lines[end]];
  if (!last || isGroup(last) || !some.every((line): line is Leaf => !isGroup(line) && isAlike(line, last))) return false;
  const isEither = joints[end] === 'or' || (last.kind === 'signal' && Array.isArray(last.type));
  // The time may be said once, at the end.
  return (
    isEither && some.every((line) => isBare(line) || (line === last && line.kind === 'signal' && isBare({ ...line, within: undefined })))
  );
}

/** `Swedish speakers, phone missing or city missing`: who speaks a language is one thing, what is missing another. */
const isAlike = (one: Leaf, other: Leaf): boolean =>
  one.kind === 'field' && other.kind === 'field' ? one.field === other.field || one.op === other.op : one.kind === other.kind;

const isBare = (line: Leaf): boolean =>
  line.kind !== 'signal' || (!line.where && !line.within && !line.count && !line.pick && !line.then && !line.sum && !line.days);

/** `opened, clicked or replied this week`: each of it this week. */
const atTheTimeOf = (line: Condition, last: Condition | undefined): Condition =>
  last && !isGroup(line) && !isGroup(last) && line.kind === 'signal' && last.kind === 'signal' && last.within !== undefined
    ? { ...line, within: last.within }
    : line;

const allOf = (of: readonly Condition[]): Condition => (of.length === 1 && of[0] ? of[0] : { match: 'all', of: [...of] });

/** Lines with no comma between them. @returns several, which all have to hold, where no "or" stands among them */
function inOneGo({ lines, joints }: { readonly lines: readonly Condition[]; readonly joints: readonly Joint[] }): readonly Condition[] {
  const alternatives: Condition[][] = [[]];
  for (const [index, line] of lines.entries()) {
    if (index > 0 && joints[index - 1] === 'or') alternatives.push([]);
    alternatives.at(-1)?.push(line);
  }
  return alternatives.length === 1 ? lines : [{ match: 'any', of: alternatives.map(allOf) }];
}
