import { createContext, use, type ReactNode } from 'react';
import { type Capability, type RouteName } from '@eager-sieve/contracts';
import { useMay, useMayCall } from '../app/use-may';

/** Whether what stands on the page can only be read: then facts are words, and not what one clicks to change. */
export const ReadOnly = createContext(false);

/** Whether the page is of a definition that is retired: it is read, and brought back before it is changed. */
export const Retired = createContext(false);

const useMayHere = (needs: Capability): boolean => {
  const retired = use(Retired);
  return useMay(needs) && !(retired && needs === 'definitions:write');
};

/** What only some may do: it is there for those who may, and for nobody else. */
export function Offer({ needs, children }: { needs: Capability; children: ReactNode }) {
  return useMayHere(needs) ? children : null;
}

/** What rests on a call of the server: it is there for those who may make it. */
export function OfferCall({ to, children }: { to: RouteName; children: ReactNode }) {
  return useMayCall(to) ? children : null;
}

/** An editor that those who may not change anything can read: its inputs stand still, and its buttons are not there. */
export function Writable({ needs, children }: { needs: Capability; children: ReactNode }) {
  const may = useMayHere(needs);
  return (
    <ReadOnly value={!may}>
      <fieldset disabled={!may} className="contents [&:disabled_button]:hidden">
        {children}
      </fieldset>
    </ReadOnly>
  );
}
