import { type RouteName } from '@eager-sieve/contracts';
import { NavLink } from 'react-router';
import { api } from '../app/api';
import { mayCall, useSeesOwn } from '../app/use-may';

const PLACES: readonly (readonly [to: string, words: string, needs: RouteName])[] = [
  ['/people', 'Everybody', 'people'],
  ['/people/companies', 'Companies', 'companies'],
  ['/people/deals', 'Deals', 'dealBoard'],
  ['/tasks', 'Tasks', 'tasks'],
  ['/people/worklists', 'Worklists', 'worklists'],
  ['/people/duplicates', 'Perhaps one person', 'duplicates'],
  ['/people/changes', 'Changes of many', 'changesOfMany'],
];

/** The ways to look at people and what goes with them. */
export function PeoplePlaces() {
  const { data: session } = api.useSessionQuery();
  const own = useSeesOwn();
  return (
    <nav aria-label="In People" className="border-base-300 mb-3 flex flex-wrap gap-x-5 gap-y-1 border-b">
      {PLACES.filter(([, , needs]) => session && mayCall(session, needs)).map(([to, words]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `-mb-px flex min-h-[28px] items-center border-b-2 ${isActive ? 'border-primary font-semibold' : 'quiet border-transparent hover:underline'}`
          }
        >
          {own && to === '/people' ? 'Your contacts' : words}
        </NavLink>
      ))}
    </nav>
  );
}
