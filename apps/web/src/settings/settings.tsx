import { type Capability } from '@eager-sieve/contracts';
import { NavLink, Outlet, useNavigate } from 'react-router';
import { api } from '../app/api';
import { Page } from '../ui/page';
import { Loading } from '../ui/states';
import { ThemeSwitch } from './theme-switch';

/** The sections of the settings, each with an address of its own. */
const SECTIONS: readonly { path: string; name: string; needs?: Capability }[] = [
  { path: '/settings', name: 'Workspace' },
  { path: '/settings/fields', name: 'Fields' },
  { path: '/settings/stages', name: 'Stages and deals' },
  { path: '/settings/signal-types', name: 'Signal types' },
  { path: '/settings/people', name: 'People with access', needs: 'settings:read' },
  { path: '/settings/keys', name: 'Keys and the API', needs: 'settings:read' },
  { path: '/settings/account', name: 'Your account' },
];

export default function Settings() {
  const { data: session } = api.useSessionQuery();
  const [signOut] = api.useSignOutBrowserMutation();
  const navigate = useNavigate();
  if (!session) return <Loading />;
  const leave = async (): Promise<void> => {
    await signOut({ id: session.browser });
    await navigate('/sign-in');
    location.reload();
  };
  const offered = SECTIONS.filter(({ needs }) => needs === undefined || session.capabilities.includes(needs));
  return (
    <Page
      title="Settings"
      sentence={`Signed in as ${session.person.name}, ${session.person.role}.`}
      actions={
        <>
          <ThemeSwitch />
          <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => void leave()}>
            Sign out
          </button>
        </>
      }
    >
      <div className="flex gap-8 max-md:flex-col max-md:gap-4">
        <nav
          aria-label="Sections of the settings"
          className="flex w-44 flex-none flex-col gap-0.5 max-md:w-full max-md:flex-row max-md:flex-wrap"
        >
          {offered.map(({ path, name }) => (
            <NavLink
              key={path}
              to={path}
              end={path === '/settings'}
              className={({ isActive }) =>
                `border-l-3 px-2.5 py-1 ${isActive ? 'border-primary bg-base-100 font-medium' : 'border-transparent hover:bg-base-100'}`
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="flex min-w-0 max-w-[900px] flex-1 flex-col gap-7">
          <Outlet />
        </div>
      </div>
    </Page>
  );
}
