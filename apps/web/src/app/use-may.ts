import { type Capability } from '@eager-sieve/contracts';
import { api } from './api';

/** Whether whoever is signed in may do all of this: what they may not do is not offered. */
export function useMay(...all: readonly Capability[]): boolean {
  const { data } = api.useSessionQuery();
  return all.every((capability) => data?.capabilities.includes(capability));
}
