import { type ReactNode } from 'react';

interface OpenerProps {
  readonly open: boolean;
  readonly onToggle: () => void;
  readonly className?: string;
  readonly children: ReactNode;
}

/** Words that open what stands behind them. It is no button of a form: who may only read an editor opens it too. */
export function Opener({ open, onToggle, className = '', children }: OpenerProps) {
  return (
    <span
      role="button"
      tabIndex={0}
      aria-expanded={open}
      className={`slot text-left ${className}`}
      onClick={onToggle}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onToggle();
      }}
    >
      {children}
    </span>
  );
}
