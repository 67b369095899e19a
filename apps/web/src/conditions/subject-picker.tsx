import { fold, type Catalogue, type Leaf, type SubjectKind } from '@eager-sieve/core';
import { Command } from 'cmdk';
import { useId, useRef, useState } from 'react';
import { useMay } from '../app/use-may';
import { count } from '../ui/number';
import { makeable, MakeMissing, type Missing } from './make-missing';
import { lineAbout, subjectGroups, type SubjectChoice, type SubjectGroup } from './subjects';

interface SubjectPickerProps {
  readonly value: string;
  readonly catalogue: Catalogue;
  readonly of?: SubjectKind;
  readonly onPick: (leaf: Leaf) => void;
  readonly label: string;
  /** what stands on the button where nothing is picked yet */
  readonly first?: string;
}

/** What this browser picked lately, the latest first. */
const LATELY = 'eager-sieve-picked-lately';
const MOST_LATELY = 5;
function readLately(): readonly string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(LATELY) ?? '[]');
    return Array.isArray(kept) ? kept.filter((each): each is string => typeof each === 'string') : [];
  } catch {
    return [];
  }
}
const keepLately = (value: string): void =>
  localStorage.setItem(LATELY, JSON.stringify([value, ...readLately().filter((each) => each !== value)].slice(0, MOST_LATELY)));

const wordsOf = (text: string): readonly string[] =>
  fold(text)
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** How well an entry fits what is typed: each word begins one of its own. What it is called counts for more than what it is also called. */
function fit(choice: SubjectChoice, typed: string): number {
  const own = wordsOf(choice.label);
  const others = choice.words.flatMap(wordsOf);
  // Of several that fit, the one that is called just so comes first.
  let sum = fold(choice.label) === fold(typed.trim()) ? 10 : 0;
  for (const word of wordsOf(typed)) {
    const found = [own, others].findIndex((words) => words.some((each) => each.startsWith(word)));
    if (found < 0) return 0;
    sum += found === 0 ? 2 : 1;
  }
  return sum;
}

/** The groups that hold what fits, the best first in each and among them; all of them, with what was picked lately, while nothing is typed. */
function offered(groups: readonly SubjectGroup[], typed: string): readonly SubjectGroup[] {
  if (typed.trim() === '') {
    const all = groups.flatMap(({ choices }) => choices);
    const lately = readLately().flatMap((value) => all.find((each) => each.value === value) ?? []);
    return [...(lately.length > 0 ? [{ name: 'Picked lately', choices: lately }] : []), ...groups];
  }
  return groups
    .map((group) => {
      const fitting = group.choices.map((choice) => ({ choice, how: fit(choice, typed) })).filter(({ how }) => how > 0);
      fitting.sort((a, b) => b.how - a.how);
      return { name: group.name, choices: fitting.map(({ choice }) => choice), best: fitting[0]?.how ?? 0 };
    })
    .filter(({ choices }) => choices.length > 0)
    .sort((a, b) => b.best - a.best);
}

/** Picks what a line is about: by its group, or by any word of what it is called. */
export function SubjectPicker({ value, catalogue, of = 'contact', onPick, label, first }: SubjectPickerProps) {
  const [isOpen, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const id = useId();
  const groups = subjectGroups(catalogue, of);
  const shown = groups.flatMap(({ choices }) => choices).find((each) => each.value === value)?.label ?? first ?? value;
  const [making, setMaking] = useState<{ readonly kind: Missing; readonly name: string }>();
  const close = (): void => {
    setOpen(false);
    button.current?.focus();
  };
  return (
    <span
      className="relative inline-block"
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && setOpen(false)}
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || !isOpen) return;
        event.stopPropagation();
        close();
      }}
    >
      <button
        ref={button}
        type="button"
        className="select select-sm w-auto max-w-60 cursor-pointer text-left"
        aria-haspopup="listbox"
        aria-expanded={isOpen}
        aria-controls={id}
        aria-label={value === '' ? label : `${label}: ${shown}`}
        onClick={() => setOpen(!isOpen)}
      >
        <span className="truncate">{shown}</span>
      </button>
      {isOpen && (
        <div id={id} className="panel appears absolute top-9 left-0 z-20 w-80 max-w-[90vw] p-1.5 shadow-sm">
          <Subjects
            groups={groups}
            label={label}
            of={of}
            onMake={(kind, name) => {
              close();
              setMaking({ kind, name });
            }}
            onPick={(choice) => {
              const leaf = lineAbout(choice.value, catalogue);
              keepLately(choice.value);
              close();
              if (leaf) onPick(leaf);
            }}
          />
        </div>
      )}
      <MakeMissing
        kind={making?.kind}
        name={making?.name ?? ''}
        catalogue={catalogue}
        of={of}
        onMade={onPick}
        onClose={() => setMaking(undefined)}
      />
    </span>
  );
}

const HEADING =
  '[&_[cmdk-group-heading]]:quiet [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[12px]';
const ITEM = 'data-[selected=true]:bg-base-200 flex cursor-pointer items-baseline justify-between gap-3 rounded px-2 py-1';

interface SubjectsProps {
  readonly groups: readonly SubjectGroup[];
  readonly label: string;
  readonly of: SubjectKind;
  readonly onPick: (choice: SubjectChoice) => void;
  readonly onMake: (kind: Missing, name: string) => void;
}

function Subjects({ groups, label, of, onPick, onMake }: SubjectsProps) {
  const [typed, setTyped] = useState('');
  const fitting = offered(groups, typed);
  const mayMake = useMay('definitions:write') && typed.trim() !== '';
  return (
    <Command shouldFilter={false} label={label}>
      <Command.Input autoFocus value={typed} onValueChange={setTyped} placeholder="any word of it" className="input input-sm w-full" />
      <Command.List className="mt-1.5 max-h-80 overflow-y-auto" label={label}>
        {fitting.length === 0 && <p className="quiet p-2">Nothing goes by that name.</p>}
        {fitting.map((group) => (
          <Command.Group key={group.name} heading={group.name} className={HEADING}>
            {group.choices.map((choice) => (
              <Command.Item key={choice.value} value={`${group.name} ${choice.value}`} className={ITEM} onSelect={() => onPick(choice)}>
                <span className="truncate">{choice.label}</span>
                <span className="quiet flex min-w-0 items-baseline gap-2 text-[12px]">
                  {choice.hint && <span className="truncate">{choice.hint}</span>}
                  {choice.count !== undefined && <span className="text-base-content tabular-nums">{count(choice.count)}</span>}
                </span>
              </Command.Item>
            ))}
          </Command.Group>
        ))}
        {mayMake && (
          <Command.Group heading={`Make “${typed.trim()}”`} className={HEADING}>
            {makeable(of).map(([kind, words]) => (
              <Command.Item key={kind} value={`make ${kind}`} className={ITEM} onSelect={() => onMake(kind, typed.trim())}>
                as {words} …
              </Command.Item>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command>
  );
}
