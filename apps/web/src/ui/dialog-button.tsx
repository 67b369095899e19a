import { useState, type ReactNode } from 'react';
import { errorMessage } from '../app/errors';
import { Dialog } from './dialog';

interface DialogButtonProps {
  /** on the button, which says by three dots that it asks first */
  readonly words: string;
  readonly title: string;
  readonly wide?: boolean;
  readonly disabled?: boolean;
  /** what the dialog asks; it closes by `close` */
  readonly children: (close: () => void) => ReactNode;
}

/** A button that opens a dialog. */
export function DialogButton({ words, title, wide = false, disabled = false, children }: DialogButtonProps) {
  const [isOpen, setIsOpen] = useState(false);
  const close = (): void => setIsOpen(false);
  return (
    <>
      <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={disabled} onClick={() => setIsOpen(true)}>
        {words}
      </button>
      {isOpen && (
        <Dialog open wide={wide} title={title} onClose={close}>
          {children(close)}
        </Dialog>
      )}
    </>
  );
}

interface DialogEndProps {
  /** what went wrong, as the server says it */
  readonly error?: unknown;
  /** on the button that does it */
  readonly act: string;
  readonly disabled: boolean;
  /** left out where a form is sent by it */
  readonly onAct?: () => void;
  readonly onClose: () => void;
}

/** The end of a dialog: what went wrong, what does it, and the way out. */
export function DialogEnd({ error, act, disabled, onAct, onClose }: DialogEndProps) {
  return (
    <>
      {error !== undefined && error !== null && (
        <p role="alert" className="text-error mt-2 font-medium">
          {errorMessage(error)}
        </p>
      )}
      <div className="mt-4 flex gap-2">
        <button type={onAct ? 'button' : 'submit'} className="btn btn-sm btn-primary" disabled={disabled} onClick={onAct}>
          {act}
        </button>
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          Leave it
        </button>
      </div>
    </>
  );
}
