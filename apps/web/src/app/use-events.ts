import { useEffect } from 'react';
import { type FeedEvent } from '@eager-sieve/contracts';
import { api } from './api';
import { ANY, STALE_BY, type Stale, type StaleBy } from './api/calls';
import { connected, moved } from './live';
import { useAppDispatch } from './store';

const DAILY_TOTALS_EVERY_MS = 1_500;
const RECONNECT_MS = 2_000;

/** What an event makes stale before the eyes of whoever looks at it. Any signal can change what any condition holds for. */
function staleAtOnce({ contacts, more, definitions, counts }: FeedEvent): Stale[] {
  const audiences = definitions.filter((definition) => definition.kind === 'audience');
  return [
    'Count',
    'People',
    ...(more ? ['Contact' as const] : contacts.map((id) => ({ type: 'Contact' as const, id }))),
    ...[...audiences.map(({ key }) => key), ...(audiences.length > 0 ? [ANY] : [])].map((id) => ({ type: 'Audience' as const, id })),
    // How many members can be reached, and how many there are, is not only told by who came and left.
    ...(counts['consents'] || counts['gone'] ? ['Audience' as const] : []),
    ...(counts['signals'] ? ['Stream' as const] : []),
    ...(counts['contacts'] ? ['Import' as const] : []),
  ];
}

/** What an event makes stale that is not looked at so closely: totals and records. */
const staleSoon = ({ counts }: FeedEvent): StaleBy[] => [
  'Today',
  'Status',
  ...(counts['effects'] ? ['Ledger' as const] : []),
  ...(counts['signals'] ? ['Send' as const, 'Post' as const] : []),
  ...(counts['tasks'] || counts['notices'] ? ['Task' as const] : []),
];

/** Listens to what moves on the server and makes stale what rests on it, so that open pages bring themselves up to date. */
export function useEvents(on: boolean): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (!on) return;
    let source: EventSource | undefined;
    let totals: ReturnType<typeof setTimeout> | undefined;
    let reconnect: ReturnType<typeof setTimeout> | undefined;
    let wasLost = false;
    const soon = new Set<StaleBy>();

    const connect = (): void => {
      source = new EventSource('/api/app/events');
      source.onopen = () => {
        dispatch(connected(true));
        // What moved while the connection was lost was not heard: ask for everything again.
        if (wasLost) dispatch(api.util.invalidateTags(STALE_BY.filter((kind) => kind !== 'Session')));
        wasLost = false;
      };
      source.onerror = () => {
        wasLost = true;
        dispatch(connected(false));
        // A browser tries again by itself after a cut, and gives up for good after an answer that is an error.
        if (source?.readyState === EventSource.CLOSED) reconnect = setTimeout(connect, RECONNECT_MS);
      };
      source.onmessage = (message: MessageEvent<string>) => {
        const event = JSON.parse(message.data) as FeedEvent;
        dispatch(moved(event));
        dispatch(api.util.invalidateTags(staleAtOnce(event)));
        for (const kind of staleSoon(event)) soon.add(kind);
        totals ??= setTimeout(() => {
          totals = undefined;
          dispatch(api.util.invalidateTags([...soon]));
          soon.clear();
        }, DAILY_TOTALS_EVERY_MS);
      };
    };
    connect();
    return () => {
      source?.close();
      clearTimeout(totals);
      clearTimeout(reconnect);
    };
  }, [on, dispatch]);
}
