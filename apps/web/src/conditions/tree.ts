import { EVERYONE, isGroup, type Condition, type Group } from '@eager-sieve/core';

/** Leads to a line in the outline: the index of each step down. */
export type Path = readonly number[];

export const at = (root: Group, path: Path): Condition | undefined =>
  path.reduce<Condition | undefined>((here, index) => (here && isGroup(here) ? here.of[index] : undefined), root);

const withChildren = (group: Group, of: Condition[]): Group => ({ ...group, of });

/** The outline with one line replaced, or taken away where `next` is undefined. */
export function replaced(root: Group, path: Path, next: Condition | undefined): Group {
  const [index, ...rest] = path;
  if (index === undefined) return next && isGroup(next) ? next : root;
  const child = root.of[index];
  if (child === undefined) return root;
  if (rest.length > 0) return isGroup(child) ? withChildren(root, root.of.with(index, replaced(child, rest, next))) : root;
  return withChildren(root, next === undefined ? root.of.toSpliced(index, 1) : root.of.with(index, next));
}

/** The outline with a line put in at a place. */
export function inserted(root: Group, path: Path, line: Condition): Group {
  const [index = 0, ...rest] = path;
  if (rest.length === 0) return withChildren(root, root.of.toSpliced(index, 0, line));
  const child = root.of[index];
  return child && isGroup(child) ? withChildren(root, root.of.with(index, inserted(child, rest, line))) : root;
}

/** The line one place up (-1) or down (1) within its group, and where it then is. */
export function moved(root: Group, path: Path, by: -1 | 1): { root: Group; path: Path } {
  const parent = path.slice(0, -1);
  const index = path.at(-1) ?? 0;
  const group = at(root, parent);
  const line = at(root, path);
  if (!group || !isGroup(group) || !line || index + by < 0 || index + by >= group.of.length) return { root, path };
  const to = [...parent, index + by];
  return { root: inserted(replaced(root, path, undefined), to, line), path: to };
}

/** The line put into a group: that above it if it is one, else a new "any" of its own. */
export function into(root: Group, path: Path): { root: Group; path: Path } {
  const line = at(root, path);
  const index = path.at(-1) ?? 0;
  const parent = path.slice(0, -1);
  if (!line) return { root, path };
  const above = at(root, [...parent, index - 1]);
  if (index > 0 && above && isGroup(above)) {
    const to = [...parent, index - 1, above.of.length];
    return { root: inserted(replaced(root, path, undefined), to, line), path: to };
  }
  return { root: replaced(root, path, { match: 'any', of: [line] }), path: [...path, 0] };
}

/** The line taken out of its group, to stand after it; a group that is left with nothing goes. */
export function outOf(root: Group, path: Path): { root: Group; path: Path } {
  const line = at(root, path);
  if (path.length < 2 || !line) return { root, path };
  const parent = path.slice(0, -1);
  const to = [...parent.slice(0, -1), (parent.at(-1) ?? 0) + 1];
  const without = replaced(root, path, undefined);
  const left = at(without, parent);
  const put = inserted(without, to, line);
  if (left && isGroup(left) && left.of.length === 0) return { root: replaced(put, parent, undefined), path: parent };
  return { root: put, path: to };
}

/** Where something is dropped on a row: above it, below it, or on it, which puts the two together. */
export type Drop = 'before' | 'after' | 'on';
const isWithin = (path: Path, outer: Path): boolean => outer.every((step, index) => path[index] === step);

/** A line or a group put down at a row, and where it then is: on a group it becomes its first, on a line the two become a group. Nothing goes into itself. */
export function dropped(root: Group, from: Path, to: Path, how: Drop): { root: Group; path: Path } {
  const line = at(root, from);
  const target = at(root, to);
  if (!line || !target || from.length === 0 || to.length === 0 || isWithin(to, from)) return { root, path: from };
  // The copy and what is left behind are known by being themselves, wherever the indexes move to.
  const moving = { ...line };
  const left: Group = { match: 'all', of: [] };
  const without = replaced(root, from, left);
  const there = at(without, to) ?? target;
  const put =
    how === 'before'
      ? inserted(without, to, moving)
      : how === 'after'
        ? inserted(without, [...to.slice(0, -1), (to.at(-1) ?? 0) + 1], moving)
        : replaced(without, to, isGroup(there) ? { ...there, of: [moving, ...there.of] } : { match: 'any', of: [there, moving] });
  const swept = withoutRow(put, left);
  return { root: swept, path: pathOf(swept, moving) };
}

const pathOf = (root: Group, condition: Condition): Path => rowsOf(root).find((row) => row.condition === condition)?.path ?? [];

/** The outline without a row, and without the groups that it leaves empty. */
function withoutRow(root: Group, gone: Condition): Group {
  const path = pathOf(root, gone);
  const without = replaced(root, path, undefined);
  const parent = path.slice(0, -1);
  const left = parent.length > 0 ? at(without, parent) : undefined;
  return left && isGroup(left) && left.of.length === 0 ? withoutRow(without, left) : without;
}

/** Every row of the outline from top to bottom, groups before their lines. */
export function rowsOf(root: Group): { path: Path; condition: Condition; depth: number }[] {
  const rows: { path: Path; condition: Condition; depth: number }[] = [];
  const visit = (group: Group, path: Path, depth: number): void => {
    group.of.forEach((condition, index) => {
      const here = [...path, index];
      rows.push({ path: here, condition, depth });
      if (isGroup(condition)) visit(condition, here, depth + 1);
    });
  };
  visit(root, [], 1);
  return rows;
}

export const samePath = (a: Path | null, b: Path): boolean => a !== null && a.length === b.length && a.every((index, i) => index === b[i]);

/** A condition as the outline shows it: a single line is a group of one. */
export const asGroup = (condition: Condition | undefined): Group =>
  condition === undefined ? EVERYONE : isGroup(condition) ? condition : { match: 'all', of: [condition] };
