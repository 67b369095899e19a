import { useEffect } from 'react';

/** The drafts on the page that differ from what is kept. */
const unsaved = new Set<symbol>();

export const anythingUnsaved = (): boolean => unsaved.size > 0;

/** While something is not kept, leaving the page asks first. */
export function useUnsaved(differs: boolean): void {
  useEffect(() => {
    if (!differs) return;
    const mine = Symbol();
    unsaved.add(mine);
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener('beforeunload', ask);
    return () => {
      unsaved.delete(mine);
      removeEventListener('beforeunload', ask);
    };
  }, [differs]);
}

/** How often a page has been left since the application was opened. */
let leavings = 0;

export const pageLeft = (): void => void (leavings += 1);

/** Begins to look whether the page is left; what it gives says whether it still is the same one. */
export function watchPage(): () => boolean {
  const before = leavings;
  return () => leavings === before;
}

/** Goes along where a page is left for the address of what was just kept: nothing is lost by it. */
export const KEPT = { kept: true } as const;
