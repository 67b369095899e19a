import { type Checked, type Fault } from '../../faults.ts';

export type Path = readonly (string | number)[];

/** A fault on its way to the line in which it was found. */
export class Faulty extends Error {
  readonly faults: readonly Fault[];
  constructor(...faults: readonly Fault[]) {
    super(faults[0]?.code);
    this.faults = faults;
  }
}

export const broken = (path: Path, code: string, expected: string): Faulty => new Faulty({ path, code, expected });

/** The value, or all that is wrong with it thrown. */
export function ok<T>(checked: Checked<T>): T {
  if (checked.ok) return checked.value;
  throw new Faulty(...checked.faults);
}

/** Runs a part of the work; what is wrong with it is gathered, so that every fault is told and not only the first. */
export function gathered<T>(faults: Fault[], work: () => T): T | undefined {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof Faulty)) throw error;
    faults.push(...error.faults);
    return undefined;
  }
}
