import { Suspense, useEffect, useState } from 'react';
import { Link, Navigate, Outlet, useLocation, useNavigate } from 'react-router';
import { type SessionView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { statusOf } from '../app/errors';
import { traceClosed } from '../app/trace';
import { useAppDispatch } from '../app/store';
import { mayCall } from '../app/use-may';
import { useEvents } from '../app/use-events';
import { Persons } from '../ui/person-input';
import { Empty, Loading, Wrong } from '../ui/states';
import { showTimesIn } from '../ui/when';
import { LeaveGuard } from './leave-guard';
import { KeysHelp } from './keys-help';
import { Notices } from './notices';
import { PLACES, placesFor } from './places';
import { Search } from './search';
import { Stack } from './stack';
import { TraceDrawer } from './trace-drawer';
import { WorkStrip } from './work-strip';

const GO_MS = 1_500;
const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** The frame around every page of someone who is signed in. */
export function Frame() {
  const { data: session, error, isLoading, refetch } = api.useSessionQuery();
  const { data: persons = [] } = api.usePersonNamesQuery(undefined, { skip: !session || !mayCall(session, 'personNames') });
  const [overlay, setOverlay] = useState<'search' | 'keys' | null>(null);
  const navigate = useNavigate();
  const location = useLocation();
  const dispatch = useAppDispatch();
  useEvents(session !== undefined);
  if (session) showTimesIn(session.workspace.timeZone);

  useEffect(() => {
    dispatch(traceClosed());
  }, [location.pathname, dispatch]);

  useEffect(() => {
    let going = 0;
    const pressed = (event: KeyboardEvent): void => {
      if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || document.querySelector('dialog[open]')) return;
      if (going > Date.now() - GO_MS) {
        going = 0;
        // What this letter does on the page is not meant.
        event.preventDefault();
        const place = PLACES.find((each) => each.letter === event.key);
        if (place) void navigate(place.path);
        return;
      }
      if (event.key === 'g') going = Date.now();
      else if (event.key === '/') {
        event.preventDefault();
        setOverlay('search');
      } else if (event.key === '?') setOverlay('keys');
      else if (event.key === 'Escape') dispatch(traceClosed());
      else if (event.key === 'n') document.querySelector<HTMLElement>('[data-new]')?.click();
      else if (event.key === 'r') document.querySelector<HTMLElement>('[data-rehearse]')?.click();
      else if (event.key === 'w')
        (
          document.activeElement?.closest('[data-fact]')?.querySelector<HTMLElement>('[data-why]') ??
          document.querySelector<HTMLElement>('[data-why]')
        )?.click();
    };
    addEventListener('keydown', pressed);
    return () => removeEventListener('keydown', pressed);
  }, [navigate, dispatch]);

  if (isLoading) return <Loading what="Opening" />;
  if (statusOf(error) === 401) return <Navigate to={`/sign-in?to=${encodeURIComponent(location.pathname)}`} replace />;
  if (!session) return <Wrong error={error} again={() => void refetch()} />;
  return (
    <div className="flex h-screen overflow-hidden max-sm:flex-col">
      <Stack session={session} onSearch={() => setOverlay('search')} onKeys={() => setOverlay('keys')} />
      <div className="flex min-w-0 flex-1 flex-col max-sm:min-h-0">
        <div className="flex min-h-0 flex-1">
          <main className="flex min-w-0 flex-1 flex-col">
            <Persons value={persons}>
              <Suspense fallback={<Loading />}>
                <Allowed session={session} />
              </Suspense>
            </Persons>
          </main>
          <TraceDrawer />
        </div>
        <WorkStrip />
      </div>
      <Search open={overlay === 'search'} onClose={() => setOverlay(null)} />
      <KeysHelp open={overlay === 'keys'} onClose={() => setOverlay(null)} />
      <LeaveGuard />
      <Notices />
    </div>
  );
}

/** The page, or a word that it is not for this role. Whoever may not see Today begins at the first place that they may. */
function Allowed({ session }: { session: SessionView }) {
  const { pathname } = useLocation();
  const place = PLACES.find(({ path }) => (path === '/' ? pathname === '/' : pathname === path || pathname.startsWith(`${path}/`)));
  const open = placesFor(session);
  if (!place || open.includes(place)) return <Outlet />;
  const [first] = open;
  if (place.path === '/' && first) return <Navigate to={first.path} replace />;
  return (
    <Empty title="This page is not for your role">
      An admin can give you another role.{' '}
      {first && (
        <Link to={first.path} className="leads">
          To {first.name}
        </Link>
      )}
    </Empty>
  );
}
