import { type LedgerRow } from '@eager-sieve/contracts';

/** The rule that did it and what set it off; where the rule began by being saved, that is said once. */
export const becauseOf = ({ rule, kind, cause }: LedgerRow): string =>
  rule === null || kind === 'firing' || cause.words.startsWith(`rule ${rule} `) ? cause.words : `rule ${rule}, ${cause.words}`;
