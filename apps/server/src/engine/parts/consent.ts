import { type ConsentChannel, type ConsentState } from '@eager-sieve/core';
import { latestOf } from './checks';
import { keyedPart } from './part';

/** What a contact allows on each channel. */
export const consent = keyedPart({
  part: 'consent',
  table: 'contact_consent',
  onlyOfContacts: true,
  key: { channel: 'text' },
  columns: { state: 'text', at: 'instant' },
  effect: 'consent',
  keyOf: (row) => row.channel as ConsentChannel,
  keyColumns: (channel) => ({ channel }),
  read: ({ state, at }) => ({ state: state as ConsentState, at }),
  write: ({ state, at }) => ({ state, at }),
  checks: [
    {
      kind: 'consent',
      sql: `select k.contact_id, null::int as definition_id from contact_consent k
            left join (${latestOf('consent', 'channel')}) l on l.contact_id = k.contact_id and l.channel = k.channel
           where k.state is distinct from coalesce(l.after #>> '{}', 'unknown')`,
    },
  ],
});
