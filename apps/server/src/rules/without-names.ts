import { type RuleRehearsal } from '@eager-sieve/contracts';
import { may, type Caller } from '../settings/access';

/** Who may count may not therefore see who it is. */
export const withoutNames = (rehearsed: RuleRehearsal, caller: Caller): RuleRehearsal =>
  may(caller, 'contacts:read') ? rehearsed : { ...rehearsed, samples: null, work: null };
