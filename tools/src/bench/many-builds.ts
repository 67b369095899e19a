import { type Status } from '@eager-sieve/contracts';
import { Client } from 'pg';
import { callsByKey } from '../calls';
import { say } from '../say';

const LOOKED_AT_MS = 50;
/** A build that goes pass by pass is only watched for so long. */
const WATCHED_MS = 10_000;
const YEARS = { kind: 'field', field: 'wheel-years', op: '<', value: 4 };
const OPENED = { kind: 'signal', type: 'message.opened', within: { last: 40, unit: 'days' }, count: { op: '>=', value: 2 } };

interface ManyBuilds {
  readonly address: string;
  readonly key: string;
  readonly databaseUrl: string;
}

/** How long it takes over very many contacts until everyone stands as a definition says that was saved just now. */
export async function manyBuilds({ address, key, databaseUrl }: ManyBuilds): Promise<void> {
  const call = callsByKey(address, key);
  const count = async (condition: object): Promise<number> =>
    (await call<{ count: number }>('POST', '/api/v1/audiences/count', { condition })).count;
  const save = (document: object) => call('PUT', '/api/v1/definitions', document);
  /** Until no build is left, or for so long. */
  const watched = async (most = Infinity): Promise<Watched> => {
    const begin = performance.now();
    for (;;) {
      const { builds } = await call<Status>('GET', '/api/v1/status');
      const ms = performance.now() - begin;
      if (builds.length === 0 || ms >= most) return { ms, left: builds };
      await new Promise((resolve) => setTimeout(resolve, LOOKED_AT_MS));
    }
  };

  say('until everyone stands as a definition says that was saved just now');
  const members = await count(YEARS);
  await save({ audiences: [{ key: 'bench-years', name: 'Bench years', kind: 'live', condition: YEARS }] });
  const [audience, bare] = [(await watched()).ms, await bareMembers(databaseUrl, members)];
  say(
    `  a new live audience of ${members}: ${seconds(audience)} (wanted: 2, of 300,000); the same rows by SQL alone ${seconds(bare)}: ${(audience / bare).toFixed(1)} times as long`,
  );
  await save({ audiences: [{ key: 'bench-years', name: 'Bench years', kind: 'live', condition: { ...YEARS, value: 3 } }] });
  say(`  the same of other years, by which some leave: ${seconds((await watched()).ms)}`);
  const waiting = { key: 'bench-opened', name: 'Bench opened', when: { kind: 'becomes', condition: OPENED } };
  await save({ rules: [{ ...waiting, then: [{ do: 'add tag', tag: 'care.call-first' }], on: true }] });
  say(`  a rule that waits for what is so of ${await count(OPENED)} already: ${seconds((await watched()).ms)}`);
  const ordered = { key: 'bench-ordered', name: 'Bench ordered', when: { kind: 'signal', type: 'order.placed' } };
  await save({ rules: [{ ...ordered, then: [{ do: 'add tag', tag: 'care.call-first' }], on: false }] });
  say(`  a rule that waits for signals: ${seconds((await watched()).ms)}`);

  const { scorecards } = await call<{ scorecards: readonly Card[] }>('GET', '/api/v1/definitions');
  const card = scorecards.find(({ key: each }) => each === 'wheel-interest') as Card;
  const raised = (by: number): object => ({
    scorecards: [{ ...card, lines: card.lines.map((line) => ({ ...line, points: line.points + by })) }],
  });
  await save(raised(1));
  say(`  a scorecard that nothing reads: ${took(await watched(WATCHED_MS))}`);

  const inYears = { kind: 'audience', audience: 'bench-years', op: 'in' };
  await save({ audiences: [{ key: 'bench-both', name: 'Bench both', kind: 'live', condition: { match: 'all', of: [inYears, OPENED] } }] });
  await watched();
  await save({ audiences: [{ key: 'bench-years', name: 'Bench years', kind: 'live', condition: { ...YEARS, value: 2 } }] });
  say(`  an audience that another reads, and ${members - (await count(inYears))} leave: ${took(await watched(WATCHED_MS))}`);
  const ranked = { kind: 'score', scorecard: card.key, op: '>=', value: 5 };
  await save({ audiences: [{ key: 'bench-ranked', name: 'Bench ranked', kind: 'live', condition: ranked }] });
  await watched();
  const { points = 0 } = card.lines[0] ?? {};
  const first = card.lines.map((line, index) => ({ ...line, points: index === 0 ? points + 7 : line.points + 1 }));
  await save({ scorecards: [{ ...card, lines: first }] });
  say(`  one line of a scorecard that an audience reads: ${took(await watched(WATCHED_MS))}`);
  await save(raised(2));
  say(`  all lines of it: ${took(await watched(WATCHED_MS))}`);
}

const seconds = (ms: number): string => `${(ms / 1_000).toFixed(1)} s`;

/** How long it took, or would take if it went on so. */
function took({ ms, left: [build] }: Watched): string {
  if (!build) return `${seconds(ms)} (wanted: 60 s, of a million)`;
  return `${Math.round((1_000 * build.done) / ms)} contacts a second, ${seconds((ms * build.total) / build.done)} for all if it goes on so (wanted: 60 s, of a million)`;
}

interface Watched {
  readonly ms: number;
  readonly left: Status['builds'];
}

interface Card {
  readonly key: string;
  readonly lines: readonly { readonly points: number }[];
}

/** As many memberships and effects in tables with the same indexes, in one statement each. @returns ms */
async function bareMembers(databaseUrl: string, members: number): Promise<number> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  await client.query(
    'create table bare_membership (like membership including indexes); create table bare_ledger (like ledger including indexes)',
  );
  const at = new Date().toISOString();
  const begin = performance.now();
  await client.query(
    `insert into bare_ledger (id, contact_id, at, epoch, kind, verb, definition_id, cause_kind, cause_ref)
     select n, n, $2::timestamptz, 1, 'membership', 'joined', 1, 'definition', '1/1' from generate_series(1, $1::int) n`,
    [members, at],
  );
  await client.query(
    'insert into bare_membership (contact_id, definition_id, since, ledger_id) select n, 1, $2::timestamptz, n from generate_series(1, $1::int) n',
    [members, at],
  );
  const ms = performance.now() - begin;
  await client.query('drop table bare_membership; drop table bare_ledger');
  await client.end();
  return ms;
}
