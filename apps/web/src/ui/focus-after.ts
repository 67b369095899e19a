import { useLayoutEffect, useRef } from 'react';

/**
 * Asks for an element to be focused once the change that brings it is on the page. That happens before the next key is read, so somebody who types
 * fast does not write into the row they have just left.
 */
export function useFocusAfter(): (find: () => HTMLElement | null | undefined) => void {
  const wanted = useRef<(() => HTMLElement | null | undefined) | undefined>(undefined);
  useLayoutEffect(() => {
    const find = wanted.current;
    wanted.current = undefined;
    find?.()?.focus();
  });
  return (find) => {
    wanted.current = find;
  };
}
