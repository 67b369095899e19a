import {
  read,
  said,
  type Catalogue,
  type Condition,
  type Fault,
  type Leaf,
  type Reading,
  type Readings,
  type SubjectKind,
} from '@eager-sieve/core';
import { useId, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import { usePendingLine } from '../app/pending-lines';
import { useMay } from '../app/use-may';
import { HowMany } from './how-many';
import { makeable, MakeMissing, type Missing } from './make-missing';

interface TypedLineProps {
  readonly catalogue: Catalogue;
  readonly of?: SubjectKind;
  readonly initial?: string;
  readonly label: string;
  readonly placeholder?: string;
  /** a line, or several where so many were pasted */
  readonly onLines: (lines: readonly Condition[]) => void;
  readonly onEscape?: () => void;
  readonly onDraft?: (leaf: Leaf | undefined) => void;
  readonly autoFocus?: boolean;
}

const MOST_COMPLETIONS = 6;
const MOST_READINGS = 4;

/** The space that a completion needs before it. */
const gapAfter = (before: string): string => (before === '' || before.endsWith(' ') || /[(!]$/.test(before) ? '' : ' ');

const isWhole = (reading: Reading): boolean => reading.unread.length === 0;

/** Something in the list under what is typed: a way in which it can be meant, or words that can come next. */
type Offer =
  | { readonly kind: 'reading'; readonly text: string; readonly reading: Reading }
  | { readonly kind: 'words'; readonly text: string; readonly hint: string };

/** What is typed, how it can be meant, and what can come next. */
function useTyping({ catalogue, of = 'contact', initial = '', onLines, onEscape, onDraft }: TypedLineProps) {
  const [text, setText] = useState(initial);
  const [marked, setMarked] = useState(-1);
  const [open, setOpen] = useState(false);
  const [now] = useState(Date.now);
  const { leaf, completions, said: meant } = read(text, catalogue, of, now);
  const isTyped = text.trim() !== '';
  const words = completions.offers.slice(0, MOST_COMPLETIONS).map((offer): Offer => ({ kind: 'words', ...offer }));
  const readings = isTyped
    ? meant.readings.slice(0, MOST_READINGS).map((reading): Offer => ({
        kind: 'reading',
        text: said(reading.condition, catalogue, of),
        reading,
      }))
    : [];
  const best = meant.readings.find(isWhole);
  const meanings = readings.filter((offer) => offer.text !== text.trim());
  // While a word is half typed the words that it can become come first; else what it means already.
  const goesOn = best === undefined || (meant.isHalfTyped && words.length > 0);
  const offers = !open ? [] : goesOn ? [...words, ...meanings] : [...meanings, ...words];

  const change = (next: string): void => {
    setText(next);
    setMarked(-1);
    setOpen(true);
    const result = read(next, catalogue, of, now).leaf;
    onDraft?.(result.ok ? result.value : undefined);
  };
  const add = (condition: Condition): void => {
    onLines([condition]);
    setText('');
    setMarked(-1);
    setOpen(false);
    onDraft?.(undefined);
  };
  const take = (index: number): void => {
    const offer = offers[index];
    if (offer?.kind === 'reading') return add(offer.reading.condition);
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
      else if (best && !(open && goesOn)) add(best.condition);
      else if (open && words.length > 0) take(0);
    } else if (event.key === 'Escape') {
      event.stopPropagation();
      if (offers.length > 0) setOpen(false);
      else onEscape?.();
    }
  };
  /** Of several lines each is taken that can be read whole; the others stay to be put right. */
  const pasted = (event: ClipboardEvent): void => {
    const lines = event.clipboardData
      .getData('text')
      .split(/\r?\n/)
      .map((line) => line.replace(/^[\s•*–-]+/, '').trim())
      .filter(Boolean);
    if (lines.length < 2) return;
    event.preventDefault();
    const readings = lines.map((line) => ({ line, reading: read(line, catalogue, of, now).said.readings.find(isWhole) }));
    const taken = readings.flatMap(({ reading }) => (reading ? [reading.condition] : []));
    if (taken.length > 0) onLines(taken);
    change(
      readings
        .filter(({ reading }) => !reading)
        .map(({ line }) => line)
        .join('; '),
    );
  };
  return { text, leaf, meant, isUnread: isTyped && !best, offers, marked, setOpen, change, take, pressed, pasted };
}

/** A line typed as people say it: what it can mean stands below with how many it holds for, and Enter takes the first or the marked one. */
export function TypedLine(props: TypedLineProps) {
  const { label, placeholder, autoFocus, catalogue, of = 'contact' } = props;
  const { text, leaf, meant, isUnread, offers, marked, setOpen, change, take, pressed, pasted } = useTyping(props);
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  usePendingLine(text === (props.initial ?? '') ? '' : text, input);
  return (
    <span className="relative inline-block min-w-0 flex-1">
      <input
        ref={input}
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
        onPaste={pasted}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onKeyDown={pressed}
      />
      <ul
        id={`${id}-offers`}
        role="listbox"
        aria-label={`${label}: what it can mean, and what could come next`}
        hidden={offers.length === 0}
        className="panel appears absolute top-9 left-0 z-10 w-max max-w-[min(640px,90vw)] min-w-64 py-1 shadow-sm"
      >
        {offers.map((offer, index) => (
          <li
            key={`${offer.kind} ${offer.text}`}
            id={`${id}-${index}`}
            role="option"
            aria-selected={index === marked}
            className={`flex cursor-pointer justify-between gap-6 px-2.5 py-1 ${index === marked ? 'bg-base-200' : ''}`}
            onMouseDown={(event) => (event.preventDefault(), take(index))}
          >
            {offer.kind === 'words' ? (
              <>
                <span>{offer.text}</span>
                <span className="quiet text-[12px]">{offer.hint}</span>
              </>
            ) : (
              <>
                <span>
                  {offer.text}
                  <LeftOut text={text} reading={offer.reading} />
                </span>
                <span className="quiet shrink-0 text-[12px]">
                  <HowMany condition={offer.reading.condition} catalogue={catalogue} of={of} />
                </span>
              </>
            )}
          </li>
        ))}
      </ul>
      {isUnread && offers.length === 0 && (
        <NotUnderstood
          text={text}
          said={meant}
          fault={leaf.ok ? undefined : leaf.faults[0]}
          catalogue={catalogue}
          of={of}
          onMade={(made) => {
            change('');
            props.onLines([made]);
          }}
        />
      )}
    </span>
  );
}

/** Nothing is guessed silently: what a reading does not account for stands beside it. */
function LeftOut({ text, reading }: { text: string; reading: Reading }) {
  if (reading.unread.length === 0) return null;
  const words = reading.unread.map(({ from, to }) => `“${text.slice(from, to)}”`).join(', ');
  return <span className="text-error text-[12.5px]"> without {words}</span>;
}

interface NotUnderstoodProps {
  readonly text: string;
  readonly said: Readings;
  readonly fault: Fault | undefined;
  readonly catalogue: Catalogue;
  readonly of: SubjectKind;
  readonly onMade: (leaf: Leaf) => void;
}

/** Which word is not known, what it may be instead, and a way to make what it means where that is not there yet. */
function NotUnderstood({ text, said, fault, catalogue, of, onMade }: NotUnderstoodProps) {
  const [kind, setKind] = useState<Missing>();
  const mayMake = useMay('definitions:write');
  const [word] = said.unknown;
  const isBegun = fault?.code === 'line.unread' && Number(fault.path[0]) >= text.trimEnd().length;
  if (!word && isBegun) return <span className="quiet ml-2 text-[12.5px]">What can come next: {fault.expected}</span>;
  const [piece] = said.inTheWay;
  // A line that is written whole, and asks what cannot be asked, says itself what is wrong with it.
  if (!word && piece && fault?.code === 'line.unread')
    return (
      <span className="text-error ml-2 text-[12.5px]">
        “<u>{text.slice(piece.from, piece.to)}</u>” does not fit in here.
      </span>
    );
  if (!word) return <span className="text-error ml-2 text-[12.5px]">{fault?.expected}</span>;
  const nearest = word.nearest.length > 0 ? ` Did you mean ${word.nearest.join(' or ')}?` : '';
  return (
    <span className="text-error ml-2 text-[12.5px]">
      “<u>{text.slice(word.from, word.to)}</u>” is not known here.{nearest}
      {mayMake && (
        <>
          {' '}
          Make “{text.trim()}”{' '}
          {makeable(of).map(([each, words]) => (
            <button key={each} type="button" className="btn btn-xs ml-1" onClick={() => setKind(each)}>
              {words}
            </button>
          ))}
          <MakeMissing kind={kind} name={text.trim()} catalogue={catalogue} of={of} onMade={onMade} onClose={() => setKind(undefined)} />
        </>
      )}
    </span>
  );
}
