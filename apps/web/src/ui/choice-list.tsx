import { keyFrom } from '@eager-sieve/core';
import { useRef } from 'react';
import { AlsoCalled, withSynonyms as callingAlso } from './also-called';
import { useFocusAfter } from './focus-after';

interface Named {
  readonly key: string;
  readonly name: string;
  readonly synonyms?: string[] | undefined;
}

/**
 * The choices of a question or a field, a row each. A choice keeps its key, and with it everything that it does and every answer that was given,
 * however it is renamed. Enter makes the next one; Alt with an arrow moves one up or down.
 */
export function ChoiceList<Choice extends Named>({
  label,
  choices,
  onChange,
  noteOf,
  withSynonyms = false,
  onMerge,
}: {
  label: string;
  choices: readonly Choice[];
  onChange: (choices: Choice[]) => void;
  /** what is said beside a choice, such as what it does */
  noteOf?: (choice: Choice) => string;
  /** whether it is asked what else people call each choice */
  withSynonyms?: boolean;
  /** the way to merge a choice that somebody has into another, which is not just taken out; undefined for one that can go */
  onMerge?: (choice: Choice) => (() => void) | undefined;
}) {
  const list = useRef<HTMLOListElement>(null);
  const focusAfter = useFocusAfter();
  const focus = (index: number): void => focusAfter(() => list.current?.querySelectorAll<HTMLInputElement>('input[data-name]')[index]);
  const rename = (index: number, name: string): void => onChange(choices.with(index, { ...(choices[index] as Choice), name }));
  const add = (at: number): void => {
    const taken = new Set(choices.map((choice) => choice.key));
    onChange(choices.toSpliced(at, 0, { key: keyFrom('choice', taken), name: '' } as Choice));
    focus(at);
  };
  /** A key that was never anything but a stand-in is made from the words, once. */
  const settle = (index: number): void => {
    const choice = choices[index];
    if (!choice || !/^choice(-\d+)?$/.test(choice.key) || choice.name.trim() === '') return;
    const taken = new Set(choices.filter((_, at) => at !== index).map((each) => each.key));
    onChange(choices.with(index, { ...choice, key: keyFrom(choice.name, taken) }));
  };
  const move = (index: number, to: number): void => {
    const choice = choices[index];
    if (!choice || to < 0 || to >= choices.length) return;
    onChange(choices.toSpliced(index, 1).toSpliced(to, 0, choice));
    focus(to);
  };
  return (
    <div role="group" aria-label={label}>
      <ol ref={list} className="flex flex-col gap-1.5">
        {choices.map((choice, index) => (
          <li key={index} className="flex flex-wrap items-center gap-2">
            <input
              className="input input-sm w-72 max-w-full"
              data-name
              aria-label={`${label}, choice ${index + 1}`}
              placeholder="What can be chosen"
              value={choice.name}
              onChange={(event) => rename(index, event.target.value)}
              onBlur={() => settle(index)}
              onKeyDown={(event) => {
                if (event.key === 'Enter') {
                  event.preventDefault();
                  add(index + 1);
                } else if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
                  event.preventDefault();
                  move(index, index + (event.key === 'ArrowUp' ? -1 : 1));
                }
              }}
            />
            {withSynonyms && (
              <AlsoCalled
                className="input input-sm w-64 max-w-full"
                label={`Choice ${index + 1} is also called`}
                value={choice.synonyms}
                onChange={(synonyms) => onChange(choices.with(index, callingAlso(choice, synonyms)))}
              />
            )}
            <RowTool
              name={choice.name || String(index + 1)}
              merge={onMerge?.(choice)}
              remove={() => onChange(choices.toSpliced(index, 1))}
            />
            {noteOf && noteOf(choice) !== '' && <span className="quiet truncate text-[12.5px]">{noteOf(choice)}</span>}
          </li>
        ))}
      </ol>
      <button type="button" className="btn btn-xs mt-1.5" onClick={() => add(choices.length)}>
        + choice
      </button>
    </div>
  );
}

function RowTool({ name, merge, remove }: { name: string; merge: (() => void) | undefined; remove: () => void }) {
  return (
    <button
      type="button"
      className="row-tool"
      aria-label={merge ? `Merge choice ${name} into another` : `Remove choice ${name}`}
      onClick={merge ?? remove}
    >
      {merge ? 'merge into …' : 'remove'}
    </button>
  );
}
