import { read, type Catalogue, type Leaf, type SubjectKind } from '@eager-sieve/core';
import { useId, useState, type KeyboardEvent } from 'react';

interface TypedLineProps {
  readonly catalogue: Catalogue;
  readonly of?: SubjectKind;
  readonly initial?: string;
  readonly label: string;
  readonly placeholder?: string;
  readonly onLine: (leaf: Leaf) => void;
  readonly onEscape?: () => void;
  readonly onDraft?: (leaf: Leaf | undefined) => void;
  readonly autoFocus?: boolean;
}

const SHOWN = 8;

/** The space that a completion needs before it. */
const gapAfter = (before: string): string => (before === '' || before.endsWith(' ') || /[(!]$/.test(before) ? '' : ' ');

/** What is typed, what it reads as, and which completions there are for it. */
function useTyping({ catalogue, of = 'contact', initial = '', onLine, onEscape, onDraft }: TypedLineProps) {
  const [text, setText] = useState(initial);
  const [marked, setMarked] = useState(-1);
  const [open, setOpen] = useState(false);
  const { leaf, completions } = read(text, catalogue, of);
  const offers = open ? completions.offers.slice(0, SHOWN) : [];

  const change = (next: string): void => {
    setText(next);
    setMarked(-1);
    setOpen(true);
    const result = read(next, catalogue, of);
    onDraft?.(result.leaf.ok ? result.leaf.value : undefined);
  };
  const take = (index: number): void => {
    const offer = offers[index];
    const before = text.slice(0, completions.from);
    if (offer) change(`${before}${gapAfter(before)}${offer.text} `);
  };
  const pressed = (event: KeyboardEvent): void => {
    if (event.key === 'ArrowDown' && offers.length > 0) {
      event.preventDefault();
      setMarked((marked + 1) % offers.length);
    } else if (event.key === 'ArrowUp' && offers.length > 0 && marked >= 0) {
      event.preventDefault();
      setMarked(marked - 1);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      if (marked >= 0) take(marked);
      else if (leaf.ok) {
        onLine(leaf.value);
        setText('');
        setOpen(false);
        onDraft?.(undefined);
      } else if (offers.length > 0) take(0);
    } else if (event.key === 'Escape') {
      event.stopPropagation();
      if (offers.length > 0) setOpen(false);
      else onEscape?.();
    }
  };
  return { text, leaf, offers, marked, setOpen, change, take, pressed };
}

/** A line typed whole, with completions: Tab moves on, Enter takes the marked completion or makes the line. */
export function TypedLine(props: TypedLineProps) {
  const { label, placeholder, autoFocus } = props;
  const { text, leaf, offers, marked, setOpen, change, take, pressed } = useTyping(props);
  const id = useId();
  return (
    <span className="relative inline-block min-w-0 flex-1">
      <input
        className="input input-sm w-full max-w-[560px]"
        role="combobox"
        aria-label={label}
        aria-expanded={offers.length > 0}
        aria-controls={`${id}-offers`}
        aria-autocomplete="list"
        aria-activedescendant={marked >= 0 ? `${id}-${marked}` : undefined}
        autoComplete="off"
        spellCheck={false}
        value={text}
        placeholder={placeholder}
        autoFocus={autoFocus}
        onChange={(event) => change(event.target.value)}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onKeyDown={pressed}
      />
      <Offers id={id} label={label} offers={offers} marked={marked} onTake={take} />
      {text.trim() !== '' && !leaf.ok && offers.length === 0 && (
        <span className="text-error ml-2 text-[12.5px]">{leaf.faults[0]?.expected}</span>
      )}
    </span>
  );
}

interface OffersProps {
  readonly id: string;
  readonly label: string;
  readonly offers: readonly { readonly text: string; readonly hint: string }[];
  readonly marked: number;
  readonly onTake: (index: number) => void;
}

function Offers({ id, label, offers, marked, onTake }: OffersProps) {
  return (
    <ul
      id={`${id}-offers`}
      role="listbox"
      aria-label={`${label}: what could come next`}
      hidden={offers.length === 0}
      className="panel appears absolute top-9 left-0 z-10 min-w-64 py-1 shadow-sm"
    >
      {offers.map((offer, index) => (
        <li
          key={`${offer.hint} ${offer.text}`}
          id={`${id}-${index}`}
          role="option"
          aria-selected={index === marked}
          className={`flex cursor-pointer justify-between gap-6 px-2.5 py-1 ${index === marked ? 'bg-base-200' : ''}`}
          onMouseDown={(event) => (event.preventDefault(), onTake(index))}
        >
          <span>{offer.text}</span>
          <span className="quiet text-[12px]">{offer.hint}</span>
        </li>
      ))}
    </ul>
  );
}
