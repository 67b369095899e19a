import { GROUP_WORDS, isGroup, opposite, type Catalogue, type Condition, type Group, type SubjectKind } from '@eager-sieve/core';
import { use, useState, type KeyboardEvent } from 'react';
import { useFocusAfter } from '../ui/focus-after';
import { ReadOnly } from '../ui/offer';
import { at, dropped, inserted, into, moved, outOf, replaced, rowsOf, samePath, type Drop, type Path } from './tree';

interface OutlineOf {
  readonly value: Group;
  readonly catalogue: Catalogue;
  readonly of: SubjectKind;
  readonly readOnly: boolean;
  readonly onChange: (group: Group) => void;
}

const newLine = (catalogue: Catalogue, of: SubjectKind): Condition => {
  if (of === 'company') return { kind: 'contacts', condition: { match: 'all', of: [] } };
  const tag = catalogue.all('tag')[0];
  return tag ? { kind: 'tag', tag: tag.id, op: 'has' } : { kind: 'consent', channel: 'email', op: 'is', value: 'given' };
};

/** What the keys do to a line of the outline: into the group above, out of its group, up, down. */
function movedBy(event: KeyboardEvent, value: Group, path: Path) {
  if (event.ctrlKey && event.key === ']') return into(value, path);
  if (event.ctrlKey && event.key === '[') return outOf(value, path);
  if (event.altKey && event.key === 'ArrowUp') return moved(value, path, -1);
  if (event.altKey && event.key === 'ArrowDown') return moved(value, path, 1);
  return undefined;
}

/** An outline of conditions: its rows, which of them is open, and all that can be done to one. */
export function useOutline({ value, catalogue, of, readOnly: standsStill, onChange }: OutlineOf) {
  const onlyRead = use(ReadOnly);
  const [open, setOpen] = useState<Path | null>(null);
  const [told, setTold] = useState('');
  const rows = rowsOf(value);
  const focusAfter = useFocusAfter();
  const lineAt = (path: Path | undefined) => document.querySelector<HTMLElement>(`[data-line="${path?.join('.')}"]`);
  const close = (): void => setOpen(null);
  const replace = (path: Path, condition: Condition): void => onChange(replaced(value, path, condition));
  const remove = (path: Path): void => {
    close();
    onChange(replaced(value, path, undefined));
  };
  const turn = (path: Path): void => {
    const line = at(value, path);
    const turned = line && !isGroup(line) ? opposite(line) : undefined;
    if (turned) replace(path, turned);
  };
  /** Where a line is now, for those who do not see it move. */
  const tell = (root: Group, path: Path): void => {
    const group = at(root, path.slice(0, -1));
    if (group && isGroup(group))
      setTold(`It is now line ${(path.at(-1) ?? 0) + 1} of ${group.of.length} in “${GROUP_WORDS[group.match]}”.`);
  };
  const pressed = (event: KeyboardEvent, path: Path): void => {
    if (event.target !== event.currentTarget) return;
    const index = rows.findIndex((row) => samePath(row.path, path));
    const result = movedBy(event, value, path);
    if (result) {
      event.preventDefault();
      close();
      focusAfter(() => lineAt(result.path));
      tell(result.root, result.path);
      onChange(result.root);
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      lineAt(rows[index + (event.key === 'ArrowDown' ? 1 : -1)]?.path)?.focus();
    } else if (event.key === 'Delete') {
      const before = rows[Math.max(0, index - 1)]?.path;
      if (before) focusAfter(() => lineAt(before));
      remove(path);
    } else if (event.key === 'Enter') setOpen(path);
    else if (event.key === '!') turn(path);
  };
  return {
    value,
    catalogue,
    of,
    readOnly: standsStill || onlyRead,
    rows,
    /** what was moved last, and to where */
    told,
    drop: (from: Path, to: Path, how: Drop): void => {
      const result = dropped(value, from, to, how);
      if (result.root === value) return;
      tell(result.root, result.path);
      onChange(result.root);
    },
    isOpen: (path: Path): boolean => samePath(open, path),
    close,
    toggle: (path: Path): void => setOpen(samePath(open, path) ? null : path),
    replace,
    remove,
    turn,
    pressed,
    /** adds lines at the end, with or without opening the first of them */
    add: (conditions: readonly Condition[], opened = false): void => {
      // Lines that all have to hold, put to others that all have to, stand beside them.
      const lines = conditions.flatMap((each) => (isGroup(each) && each.match === 'all' && value.match === 'all' ? each.of : [each]));
      onChange({ ...value, of: [...value.of, ...lines] });
      if (opened) setOpen([value.of.length]);
    },
    /** adds a group at the end, or a line to a group: its new line is open to be picked */
    addGroup: (): void => {
      onChange({ ...value, of: [...value.of, { match: 'any', of: [newLine(catalogue, of)] }] });
      setOpen([value.of.length, 0]);
    },
    addInto: (path: Path, length: number): void => {
      onChange(inserted(value, [...path, length], newLine(catalogue, of)));
      setOpen([...path, length]);
    },
    match: (match: Group['match']): void => onChange({ ...value, match }),
  };
}
export type OutlineModel = ReturnType<typeof useOutline>;
