import { useState } from 'react';

interface AskFirstProps {
  /** on the button that asks */
  readonly words: string;
  /** names the button where several of them stand on a page */
  readonly label?: string;
  /** what comes of it */
  readonly comes: string;
  /** on the button that does it */
  readonly act: string;
  readonly busy?: boolean;
  readonly onAct: () => void;
}

/** A button for what nobody can undo: it first says what comes of it, and does it when it is pressed again. */
export function AskFirst({ words, label, comes, act, busy = false, onAct }: AskFirstProps) {
  const [isAsked, setAsked] = useState(false);
  if (!isAsked)
    return (
      <button type="button" className="btn btn-xs" aria-label={label} onClick={() => setAsked(true)}>
        {words} …
      </button>
    );
  return (
    <span role="group" aria-label={comes} className="inline-flex flex-wrap items-center gap-2">
      {comes}
      <button
        type="button"
        className="btn btn-xs btn-error"
        autoFocus
        disabled={busy}
        onClick={() => {
          setAsked(false);
          onAct();
        }}
      >
        {act}
      </button>
      <button type="button" className="btn btn-xs" onClick={() => setAsked(false)}>
        Leave it
      </button>
    </span>
  );
}
