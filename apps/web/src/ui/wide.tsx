import { type ReactNode } from 'react';

/** A table that is wider than a narrow screen scrolls in its own frame, and the page stands still. */
export function Wide({ children }: { children: ReactNode }) {
  return <div className="max-w-full overflow-x-auto">{children}</div>;
}
