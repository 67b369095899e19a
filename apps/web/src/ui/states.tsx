import { type ReactNode } from 'react';
import { errorMessage } from '../app/errors';
import { count } from './number';

/** While something is being loaded: what could stand there, and a word for those who do not see it. */
export function Loading({ what = 'Loading' }: { what?: string }) {
  return (
    <div role="status" className="quiet p-6">
      <div aria-hidden className="skeleton mb-2 h-2 w-48" />
      <div aria-hidden className="skeleton mb-2.5 h-2 w-32" />
      {what} …
    </div>
  );
}

export function Wrong({ error, again }: { error: unknown; again?: () => void }) {
  return (
    <div role="alert" className="panel border-error m-7 p-4">
      <p className="text-error font-semibold">{errorMessage(error)}</p>
      {again && (
        <button type="button" className="btn btn-xs mt-2" onClick={again}>
          Try again
        </button>
      )}
    </div>
  );
}

/** Said under a list that does not show all there is; nothing where it does. */
export function CutShort({ shown, of, how }: { shown: number; of: number; how?: string }) {
  if (shown >= of) return null;
  return (
    <p className="quiet mt-1.5 text-[12.5px]">
      {count(shown)} of {count(of)} are shown{how && `: ${how}`}.
    </p>
  );
}

/** What belongs here, and the first step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="px-6 py-10 text-center">
      <div aria-hidden className="mx-auto mb-3 w-16">
        <div className="mesh-line" />
        <div className="mesh-line mx-2" />
        <div className="mesh-line mx-4" />
      </div>
      <h2 className="text-[15px]">{title}</h2>
      <div className="quiet mx-auto mt-1 max-w-md">{children}</div>
    </div>
  );
}
