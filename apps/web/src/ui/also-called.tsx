import { useState } from 'react';

const listOf = (text: string): string[] => [...new Set(text.split(',').map((each) => each.trim()))].filter(Boolean);

/** What else people call a thing, with commas between: whoever types one of these means it. */
export function AlsoCalled({
  value = [],
  onChange,
  label = 'Also called',
  className = 'input input-sm w-full',
}: {
  value?: readonly string[] | undefined;
  onChange: (synonyms: string[] | undefined) => void;
  label?: string;
  className?: string;
}) {
  const [typed, setTyped] = useState(value.join(', '));
  // What was undone or put back stands in the draft, and not in what was typed.
  const shown = listOf(typed).join() === value.join() ? typed : value.join(', ');
  return (
    <input
      className={className}
      aria-label={label}
      placeholder="other words for it, with commas"
      value={shown}
      onChange={(event) => {
        setTyped(event.target.value);
        const next = listOf(event.target.value);
        onChange(next.length > 0 ? next : undefined);
      }}
    />
  );
}

/** A body with its other words, or without the property where there are none. */
export function withSynonyms<Body extends { readonly synonyms?: readonly string[] | undefined }>(
  body: Body,
  synonyms: string[] | undefined,
): Body {
  const { synonyms: _before, ...rest } = body;
  return (synonyms ? { ...rest, synonyms } : rest) as Body;
}
