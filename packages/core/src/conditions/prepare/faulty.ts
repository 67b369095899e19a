import { type Checked, type Fault } from '../../faults.ts';

export type Path = readonly (string | number)[];

/** Carries faults up to the line in which they were found. */
export class Faulty extends Error {
  readonly faults: readonly Fault[];
  constructor(...faults: readonly Fault[]) {
    super(faults[0]?.code);
    this.faults = faults;
  }
}

export const broken = (path: Path, code: string, expected: string): Faulty => new Faulty({ path, code, expected });

/** Unwraps a value, or throws all of its faults. */
export function ok<T>(checked: Checked<T>): T {
  if (checked.ok) return checked.value;
  throw new Faulty(...checked.faults);
}

/** Runs a part of the work and collects its faults, so that every fault is reported and not only the first. */
export function gathered<T>(faults: Fault[], work: () => T): T | undefined {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof Faulty)) throw error;
    faults.push(...error.faults);
    return undefined;
  }
}
