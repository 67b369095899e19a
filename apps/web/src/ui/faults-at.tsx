import { createContext, use } from 'react';
import { type ToldFault } from '../app/errors';

/** What was refused of what is on the page, for the inputs that it is about. */
export const FaultsHere = createContext<readonly ToldFault[]>([]);

const leadsInto = (path: readonly (string | number)[], at: readonly (string | number)[]): boolean =>
  at.every((step, index) => path[index] === step);

/** Faults of one part of a definition, said beside it. */
export function FaultsAt({ path }: { path: readonly (string | number)[] }) {
  const faults = use(FaultsHere).filter((fault) => leadsInto(fault.path, path));
  return faults.map(({ words }, index) => (
    <p key={index} role="alert" className="text-error w-full text-[13px] font-medium">
      {words}
    </p>
  ));
}
