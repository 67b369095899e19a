import { useEffect, useRef, type ReactNode } from 'react';
import { errorMessage, isAwayForTheMoment } from '../app/errors';
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

const AGAIN_MS = 4_000;

/** What went wrong. Where the server or its database is only away for the moment, it tries again by itself. */
export function Wrong({ error, again }: { error: unknown; again?: () => void }) {
  const isAway = isAwayForTheMoment(error);
  const latest = useRef(again);
  useEffect(() => {
    latest.current = again;
  });
  useEffect(() => {
    if (!isAway) return;
    const timer = setInterval(() => latest.current?.(), AGAIN_MS);
    return () => clearInterval(timer);
  }, [isAway]);
  return (
    <div role="alert" className="panel border-error m-7 p-4">
      <p className="text-error font-semibold">{errorMessage(error)}</p>
      {isAway && again && <p className="quiet mt-1">This page tries again by itself.</p>}
      {again && (
        <button type="button" className="btn btn-xs mt-2" onClick={again}>
          Try again
        </button>
      )}
    </div>
  );
}

/** Said under a list that does not show all there is; nothing where it does. */
export function CutShort({ shown, of, how }: { shown: number; of: number; how?: string | undefined }) {
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
