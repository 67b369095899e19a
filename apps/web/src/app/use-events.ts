import { useEffect } from 'react';
import { type FeedEvent } from '@eager-sieve/contracts';
import { api } from './api';
import { connected, moved } from './live';
import { useAppDispatch } from './store';

const DAILY_TOTALS_EVERY_MS = 1_500;

/** Listens to what moves on the server and makes stale what rests on it, so that open pages bring themselves up to date. */
export function useEvents(on: boolean): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (!on) return;
    const source = new EventSource('/api/app/events');
    let timer: ReturnType<typeof setTimeout> | undefined;
    let wasLost = false;
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
          ]),
        );
      wasLost = false;
    };
    source.onerror = () => {
      wasLost = true;
      dispatch(connected(false));
    };
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as FeedEvent;
      dispatch(moved(event));
      dispatch(api.util.invalidateTags(['Audience', 'Count', 'Stream', 'People', 'Contact', 'Import']));
      timer ??= setTimeout(() => {
        timer = undefined;
        dispatch(api.util.invalidateTags(['Today', 'Ledger', 'Send', 'Post', 'Status']));
      }, DAILY_TOTALS_EVERY_MS);
    };
    return () => {
      source.close();
      clearTimeout(timer);
    };
  }, [on, dispatch]);
}
