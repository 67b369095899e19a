import { type ReactNode } from 'react';

/** The page around what one does before one is signed in. */
export function DoorPage({ children }: { children: ReactNode }) {
  return (
    <main className="mx-auto mt-[14vh] w-[360px] max-w-[92vw]">
      <div aria-hidden className="mb-4 w-24">
        <div className="mesh-line" />
        <div className="mesh-line mx-2.5" />
        <div className="mesh-line mx-5" />
      </div>
      <h1 className="text-[26px]">Eager Sieve</h1>
      <p className="quiet mb-5">Lists that keep themselves right, and say why.</p>
      {children}
    </main>
  );
}
