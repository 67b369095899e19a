import { useRef, type ReactNode } from 'react';

interface MenuProps {
  readonly label: string;
  /** on the button */
  readonly words?: string;
  readonly small?: boolean;
  readonly children: ReactNode;
}

/** Things to do behind one button. Escape closes it, and so does leaving it or choosing something. */
export function Menu({ label, words = 'More', small = false, children }: MenuProps) {
  const menu = useRef<HTMLDetailsElement>(null);
  const close = (): void => menu.current?.removeAttribute('open');
  return (
    <details
      ref={menu}
      className="dropdown dropdown-end"
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        close();
        menu.current?.querySelector('summary')?.focus();
      }}
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) close();
      }}
    >
      <summary className={`btn ${small ? 'btn-xs' : 'btn-sm btn-outline btn-primary'}`} aria-label={label}>
        {words}
      </summary>
      <ul className="dropdown-content menu bg-base-100 border-base-300 z-20 mt-1 w-52 rounded-md border" onClick={close}>
        {children}
      </ul>
    </details>
  );
}

export function MenuItem({ onClick, children }: { onClick: () => void; children: ReactNode }) {
  return (
    <li>
      <button type="button" onClick={onClick}>
        {children}
      </button>
    </li>
  );
}
