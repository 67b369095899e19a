/** Matches builds that are not done: until then derived state is not known to be exact. */
export const UNFINISHED = "state in ('running', 'stopped')";
