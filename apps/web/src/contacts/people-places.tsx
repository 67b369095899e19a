import { NavLink } from 'react-router';

const PLACES = [
  ['/people', 'Everybody'],
  ['/people/companies', 'Companies'],
  ['/people/deals', 'Deals'],
  ['/people/worklists', 'Worklists'],
  ['/people/duplicates', 'Perhaps one person'],
  ['/people/changes', 'Changes of many'],
] as const;

/** The ways to look at people and what goes with them. */
export function PeoplePlaces() {
  return (
    <nav aria-label="In People" className="border-base-300 mb-3 flex flex-wrap gap-x-5 gap-y-1 border-b">
      {PLACES.map(([to, words]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `-mb-px flex min-h-[28px] items-center border-b-2 ${isActive ? 'border-primary font-semibold' : 'quiet border-transparent hover:underline'}`
          }
        >
          {words}
        </NavLink>
      ))}
    </nav>
  );
}
