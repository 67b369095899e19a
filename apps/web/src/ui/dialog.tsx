import { useEffect, useRef, type ReactNode } from 'react';

/** A dialog over the page, by the platform's own element: it keeps the focus, and Escape closes it. */
export function Dialog({ open, title, onClose, children }: { open: boolean; title: string; onClose: () => void; children: ReactNode }) {
  const element = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const dialog = element.current;
    if (open && dialog && !dialog.open) dialog.showModal();
    if (!open && dialog?.open) dialog.close();
  }, [open]);
  return (
    <dialog
      ref={element}
      aria-label={title}
      className="panel text-base-content backdrop:bg-base-content/30 m-auto w-[560px] max-w-[94vw] p-5"
      onClose={onClose}
    >
      {open && (
        <>
          <h2 className="mb-3 text-[17px]">{title}</h2>
          {children}
        </>
      )}
    </dialog>
  );
}
