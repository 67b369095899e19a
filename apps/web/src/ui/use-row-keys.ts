import { useEffect, useRef, type RefObject } from 'react';

/** Goes from row to row by `j` and `k`, also while nothing else is in hand. */
export function useRowKeys(holder: RefObject<HTMLDivElement | null>, rows: number, scrollTo: (index: number) => void) {
  /** the row that was gone to last: keys can come faster than rows are drawn */
  const at = useRef(-1);
  const move = (by: number): void => {
    const index = Math.max(0, Math.min(rows - 1, at.current + by));
    at.current = index;
    scrollTo(index);
    const focus = (): boolean => {
      const row = holder.current?.querySelector<HTMLElement>(`[data-row="${index}"] a`);
      row?.focus();
      return row != null;
    };
    if (!focus()) requestAnimationFrame(() => void focus());
  };
  // With nothing else in hand, `j` and `k` begin at the table.
  useEffect(() => {
    const pressed = (event: KeyboardEvent): void => {
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || document.activeElement !== document.body) return;
      if (event.key !== 'j' && event.key !== 'k') return;
      event.preventDefault();
      move(event.key === 'j' ? 1 : -1);
    };
    addEventListener('keydown', pressed);
    return () => removeEventListener('keydown', pressed);
  });
  return { move, wentTo: (index: number): void => void (at.current = index) };
}
