import { useEffect, useRef, type ReactNode } from 'react';

interface DialogProps {
  readonly open: boolean;
  readonly title: string;
  /** room for a table */
  readonly wide?: boolean;
  readonly onClose: () => void;
  readonly children: ReactNode;
}

/** A dialog over the page, by the platform's own element: it keeps the focus, and Escape closes it. */
export function Dialog({ open, title, wide = false, onClose, children }: DialogProps) {
  const element = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const dialog = element.current;
    if (open && dialog && !dialog.open) {
      dialog.showModal();
      // The platform takes whatever can have the focus first, which may be a frame around the input.
      dialog.querySelector<HTMLElement>('input, textarea, select')?.focus();
    }
    if (!open && dialog?.open) dialog.close();
  }, [open]);
  return (
    <dialog ref={element} aria-label={title} className="modal" onClose={onClose}>
      {open && (
        <div className={`modal-box p-5 ${wide ? 'max-w-[960px]' : 'max-w-[560px]'} text-left font-normal`}>
          <h2 className="mb-3 text-[17px]">{title}</h2>
          {children}
        </div>
      )}
    </dialog>
  );
}
