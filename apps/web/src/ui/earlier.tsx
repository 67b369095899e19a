import { useEffect, useRef } from 'react';

interface EarlierProps {
  readonly list: { readonly hasNextPage: boolean; readonly isFetching: boolean; readonly fetchNextPage: () => unknown };
  /** it also comes by itself as one scrolls down to it */
  readonly endless?: boolean;
}

/** The next page of a list whose latest rows stand first; nothing where there is none. */
export function Earlier({ list, endless = false }: EarlierProps) {
  const button = useRef<HTMLButtonElement>(null);
  const { hasNextPage, isFetching, fetchNextPage } = list;
  useEffect(() => {
    const shown = button.current;
    if (!endless || !hasNextPage || isFetching || !shown || typeof IntersectionObserver === 'undefined') return undefined;
    const observer = new IntersectionObserver((seen) => {
      if (seen.some((each) => each.isIntersecting)) fetchNextPage();
    });
    observer.observe(shown);
    return () => observer.disconnect();
  }, [endless, hasNextPage, isFetching, fetchNextPage]);
  if (!hasNextPage) return null;
  return (
    <button ref={button} type="button" className="btn btn-xs mt-3 self-start" disabled={isFetching} onClick={() => void fetchNextPage()}>
      Earlier
    </button>
  );
}
