import { useEffect, type RefObject } from 'react';

interface PendingLine {
  readonly text: string;
  readonly input: RefObject<HTMLInputElement | null>;
}
const pending = new Set<PendingLine>();

/** A line that stands typed on the page and was not taken yet: keeping the page without it would keep something else than what is read there. */
export const pendingLine = (): PendingLine | undefined => [...pending][0];

/** @param text what is typed; empty where nothing waits to be taken */
export function usePendingLine(text: string, input: RefObject<HTMLInputElement | null>): void {
  useEffect(() => {
    if (text.trim() === '') return;
    const line: PendingLine = { text: text.trim(), input };
    pending.add(line);
    return () => void pending.delete(line);
  }, [text, input]);
}
