import { randomBytes } from 'node:crypto';
import { ask } from '../ask';
import { beginning, liveDemo } from '../demo/live';
import { DEMO_PEOPLE } from '../demo/people';
import { serverCommand, startServer, stopServer } from '../server';

const DAYS = 24;
const SCOPES = ['signals:write', 'contacts:read', 'contacts:write', 'audiences:read', 'definitions:read', 'definitions:write'];

describe('the story of the demo', () => {
  const admin = process.env['TEST_DATABASE_URL'] ?? '';

  it('is lived day by day, and leaves what a place at work has behind it', async () => {
    const name = `story_${randomBytes(6).toString('hex')}`;
    const url = Object.assign(new URL(admin), { pathname: `/${name}` }).href;
    await ask(admin, `create database ${name}`);
    try {
      const wanted = JSON.stringify({ people: DEMO_PEOPLE, key: { name: 'story', scopes: SCOPES } });
      const { key } = await serverCommand<{ key: string }>(url, 'furnish', wanted);
      const end = Date.now();
      const server = await startServer(url, 0, { SIEVE_STORY: String(beginning(end, DAYS)), SIEVE_LOG: 'silent' });
      try {
        await liveDemo({ server, key, size: 400, end, days: DAYS });
      } finally {
        await stopServer(server);
      }
      const [told] = await ask<Record<string, number | boolean>>(
        url,
        `select (select count(*) from contact where merged_into is null)::int as contacts,
                (select count(distinct date_trunc('day', since)) from membership)::int as days_of_joining,
                (select count(distinct date_trunc('day', at)) from ledger where cause_kind in ('signal', 'clock'))::int as days_of_effects,
                (select count(*) from import_run where state = 'done')::int as files,
                (select count(*) from send)::int as sends,
                (select count(*) from signal s join definition d on d.id = s.type_id where d.key in ('deal.opened', 'deal.moved'))::int as deals_in_motion,
                (select count(*) from membership m join definition d on d.id = m.definition_id where d.body->>'kind' = 'fixed')::int as guests,
                (select max(at) <= to_timestamp($1 / 1000.0) from ledger where cause_kind <> 'person')::bool as nothing_ahead,
                (select min(at) >= to_timestamp($2 / 1000.0) from ledger where cause_kind = 'signal')::bool as nothing_before`,
        [end, beginning(end, DAYS)],
      );
      expect(told).toMatchObject({ files: 2, sends: 1, nothing_ahead: true, nothing_before: true });
      expect(told?.['deals_in_motion']).toBeGreaterThan(0);
      expect(told?.['guests']).toBeGreaterThan(2);
      // Of four later files one comes within these days.
      expect(told?.['contacts']).toBeGreaterThan(350);
      expect(told?.['days_of_joining']).toBeGreaterThan(DAYS / 2);
      expect(told?.['days_of_effects']).toBeGreaterThan(DAYS - 4);
      const { differences } = await serverCommand<{ differences: number }>(url, 'verify');
      expect(differences).toBe(0);
    } finally {
      await ask(admin, `drop database ${name} with (force)`);
    }
  });
});
