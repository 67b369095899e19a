import { Link, useLocation } from 'react-router';
import { type SessionView, type TodayView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { mayCall } from '../app/use-may';
import { useAppSelector } from '../app/store';
import { count, short } from '../ui/number';
import { placesFor, type Place } from './places';

function Mark() {
  return (
    <svg width="22" height="20" viewBox="0 0 22 20" aria-hidden className="text-primary fill-current">
      {[7, 5, 3].flatMap((dots, row) =>
        Array.from({ length: dots }, (_, i) => (
          <circle key={`${row}-${i}`} cx={11 + (i - (dots - 1) / 2) * 3.1} cy={4 + row * 6} r="1.15" />
        )),
      )}
    </svg>
  );
}

/** The live figure of each stratum: what flowed since yesterday. */
function figures(today: TodayView | undefined): Readonly<Record<string, string>> {
  if (!today) return {};
  const { flow } = today;
  return {
    People: count(today.contacts),
    Intake: `${short(flow.signals)} in`,
    Tags: `+${short(flow.tagsAdded)} −${short(flow.tagsRemoved)}`,
    Rules: `${short(flow.rulesRan)} ran`,
    Scores: `${short(flow.bandsCrossed)} moved`,
    Audiences: `+${short(flow.joined)} −${short(flow.left)}`,
    Campaigns: `${short(flow.sent)} sent`,
  };
}

const TITLES: Readonly<Record<string, string>> = {
  Intake: 'signals since yesterday',
  Tags: 'tags added and removed since yesterday',
  Rules: 'times a rule ran since yesterday',
  Scores: 'bands crossed since yesterday',
  Audiences: 'came in and left since yesterday',
  Campaigns: 'sends since yesterday',
  People: 'contacts',
};

interface StackProps {
  readonly session: SessionView;
  readonly onSearch: () => void;
  readonly onKeys: () => void;
}

/** The places as strata one under another, joined by meshes: the navigation. */
export function Stack({ session, onSearch, onKeys }: StackProps) {
  const { data: today } = api.useTodayQuery(undefined, { skip: !mayCall(session, 'today') });
  const connected = useAppSelector((state) => state.live.connected);
  const shown = figures(today);
  const places = placesFor(session);
  return (
    <nav
      aria-label="Places"
      className="border-base-300 bg-base-200 flex w-[196px] flex-none flex-col overflow-y-auto border-r max-lg:w-[150px] max-sm:order-last max-sm:h-13 max-sm:w-full max-sm:flex-row max-sm:overflow-x-auto max-sm:border-t max-sm:border-r-0"
    >
      <div className="font-display flex items-center gap-2.25 px-4 pt-4 pb-3 text-[17px] font-[650] max-sm:hidden">
        <Mark />
        Eager Sieve
      </div>
      {places.map((place, index) => (
        <div key={place.path} className={place.low && !places[index - 1]?.low ? 'mt-auto max-sm:mt-0' : ''}>
          {place.mesh && (
            <div aria-hidden className="mesh-line mx-4 max-sm:hidden" style={{ '--mesh': place.mesh } as React.CSSProperties} />
          )}
          <PlaceLink place={place} shown={shown[place.name]} isLive={place.name === 'Intake' && connected} />
        </div>
      ))}
      <div className="quiet px-4 pt-2.5 pb-3.5 text-[12px] max-sm:hidden">
        <div className="truncate">{session.workspace.name}</div>
        <div className="truncate">{session.person.name}</div>
        {!connected && <div className="text-error">not connected: figures may be old</div>}
        <div className="mt-1 flex gap-3">
          <button type="button" className="cursor-pointer" onClick={onSearch}>
            Search <kbd className="border-base-300 bg-base-100 rounded border px-1 font-mono text-[11px]">/</kbd>
          </button>
          <button type="button" className="cursor-pointer" onClick={onKeys}>
            Keys <kbd className="border-base-300 bg-base-100 rounded border px-1 font-mono text-[11px]">?</kbd>
          </button>
        </div>
      </div>
    </nav>
  );
}

function PlaceLink({ place, shown, isLive }: { place: Place; shown: string | undefined; isLive: boolean }) {
  const { pathname } = useLocation();
  const isHere = (path: string, isWhole: boolean): boolean => pathname === path || (!isWhole && pathname.startsWith(`${path}/`));
  const isActive = isHere(place.path, place.path === '/') || (place.also !== undefined && isHere(place.also, false));
  return (
    <Link
      to={place.path}
      aria-current={isActive ? 'page' : undefined}
      className={`flex items-baseline justify-between px-4 py-1.75 max-sm:h-full max-sm:items-center ${isActive ? 'bg-base-100 shadow-[inset_3px_0_var(--color-primary)]' : 'hover:bg-base-100/60'}`}
    >
      <span className={isActive ? 'font-[650]' : 'font-medium'}>{place.name}</span>
      <span className="quiet text-[12px] whitespace-nowrap max-lg:hidden" title={TITLES[place.name]}>
        {isLive && <span aria-hidden className="bg-accent mr-1.25 inline-block size-1.5 rounded-full align-[1px]" />}
        {shown}
      </span>
    </Link>
  );
}
