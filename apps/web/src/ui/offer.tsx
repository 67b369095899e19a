import { createContext, type ReactNode } from 'react';
import { type Capability } from '@eager-sieve/contracts';
import { useMay } from '../app/use-may';

/** Whether what stands on the page can only be read: then facts are words, and not what one clicks to change. */
export const ReadOnly = createContext(false);

/** What only some may do: it is there for those who may, and for nobody else. */
export function Offer({ needs, children }: { needs: Capability; children: ReactNode }) {
  return useMay(needs) ? children : null;
}

/** An editor that those who may not change anything can read: its inputs stand still, and its buttons are not there. */
export function Writable({ needs, children }: { needs: Capability; children: ReactNode }) {
  const may = useMay(needs);
  return (
    <ReadOnly value={!may}>
      <fieldset disabled={!may} className="contents [&:disabled_button]:hidden">
        {children}
      </fieldset>
    </ReadOnly>
  );
}
