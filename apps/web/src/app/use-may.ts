import {
  capabilitiesOf,
  ROUTES,
  tellsOfOthers,
  type Capability,
  type Route,
  type RouteName,
  type SessionView,
} from '@eager-sieve/contracts';
import { api } from './api';

/**
 * Whether whoever is signed in may do all of this: what they may not do is not offered. Whoever sees only their own contacts counts
 * these alone, and is shown no figures that speak of everyone.
 */
export function useMay(...all: readonly Capability[]): boolean {
  const { data } = api.useSessionQuery();
  return all.every((each) => data?.capabilities.includes(each) && (each !== 'audiences:read' || data.own === null));
}

/** Whether a session may call a route: one that sees only its own contacts may not where more is told. */
export function mayCall({ capabilities, own }: SessionView, name: RouteName): boolean {
  const route: Route = ROUTES[name];
  return capabilitiesOf(route.requires).every((each) => capabilities.includes(each)) && (own === null || !tellsOfOthers(route));
}

/** Whether whoever is signed in may call a route of the server. */
export function useMayCall(name: RouteName): boolean {
  const { data } = api.useSessionQuery();
  return data !== undefined && mayCall(data, name);
}

/** Whether whoever is signed in sees only contacts that they, or their team, look after. */
export const useSeesOwn = (): boolean => (api.useSessionQuery().data?.own ?? null) !== null;
