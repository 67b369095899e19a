import { type Capability } from '@eager-sieve/contracts';
import { api } from './api';

/** Whether whoever is signed in may do something: what they may not do is not offered. */
export function useMay(capability: Capability): boolean {
  return api.useSessionQuery().data?.capabilities.includes(capability) ?? false;
}
