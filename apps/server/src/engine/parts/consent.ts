import { type ConsentChannel, type ConsentState } from '@eager-sieve/core';
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
           where k.state is distinct from coalesce((select l.after #>> '{}' from ledger l where l.contact_id = k.contact_id and l.kind = 'consent' and l.channel = k.channel order by l.id desc limit 1), 'unknown')`,
    },
  ],
});
