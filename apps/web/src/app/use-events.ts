import { useEffect } from 'react';
import { type FeedEvent } from '@eager-sieve/contracts';
import { api } from './api';
import { connected, moved } from './live';
import { useAppDispatch } from './store';

const DAILY_TOTALS_EVERY_MS = 1_500;
const RECONNECT_MS = 2_000;

/** Listens to what moves on the server and makes stale what rests on it, so that open pages bring themselves up to date. */
export function useEvents(on: boolean): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (!on) return;
    let source: EventSource | undefined;
    let totals: ReturnType<typeof setTimeout> | undefined;
    let reconnect: ReturnType<typeof setTimeout> | undefined;
    let wasLost = false;

    const connect = (): void => {
      source = new EventSource('/api/app/events');
      source.onopen = () => {
        dispatch(connected(true));
        // What moved while the connection was lost was not heard: ask for everything again.
        if (wasLost)
          dispatch(
            api.util.invalidateTags([
              'Contact',
              'People',
              'Audience',
              'Count',
              'Today',
              'Stream',
              'Ledger',
              'Send',
              'Post',
              'Import',
              'Catalogue',
              'Status',
              'Task',
            ]),
          );
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
        dispatch(api.util.invalidateTags(['Audience', 'Count', 'Stream', 'People', 'Contact', 'Import']));
        totals ??= setTimeout(() => {
          totals = undefined;
          dispatch(api.util.invalidateTags(['Today', 'Ledger', 'Send', 'Post', 'Status', 'Task']));
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
