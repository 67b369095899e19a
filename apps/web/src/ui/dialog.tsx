import { useEffect, useRef, type ReactNode } from 'react';

/** A dialog over the page, by the platform's own element: it keeps the focus, and Escape closes it. */
export function Dialog({ open, title, onClose, children }: { open: boolean; title: string; onClose: () => void; children: ReactNode }) {
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
        <div className="modal-box max-w-[560px] p-5 text-left font-normal">
          <h2 className="mb-3 text-[17px]">{title}</h2>
          {children}
        </div>
      )}
    </dialog>
  );
}
