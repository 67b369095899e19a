import { type CountAnswer } from '@eager-sieve/contracts';
import { Client } from 'pg';
import { callsByKey } from '../calls';
import { say } from '../say';
import { BY_HAND, countedByHand } from './by-hand';
import { median, quantile } from './figures';
import { indexReady } from './index-ready';

const ROUNDS = 5;
const PAGE = 100;
const EVERYONE = { match: 'all', of: [] };
const REGION = { kind: 'field', field: 'region', op: 'is', value: 'mill-end' };
const SCORE = { kind: 'score', scorecard: 'keenness' };
const SIX_LINES = {
  match: 'all',
  of: [
    REGION,
    { kind: 'consent', channel: 'email', op: 'is', value: 'given' },
    { kind: 'signal', type: 'page.visited', within: { last: 90, unit: 'days' } },
    { kind: 'field', field: 'wheel-years', op: '>=', value: 2 },
    { kind: 'band', scorecard: 'keenness', op: 'is one of', value: ['curious', 'keen', 'eager'] },
    { kind: 'tag', tag: 'care.call-first', op: 'lacks' },
  ],
};

/** A table of people as it is asked for, by what is said of it. */
const TABLES: readonly (readonly [words: string, asked: object])[] = [
  ['the newest', {}],
  ['by a score', { sort: [{ column: SCORE, down: true }] }],
  ['by a number', { sort: [{ column: { kind: 'field', field: 'wheel-years' }, down: true }] }],
  ['by when they were added', { sort: [{ column: { kind: 'field', field: 'added' } }] }],
  ['by a text', { sort: [{ column: { kind: 'field', field: 'given-name' } }] }],
  ['by a choice', { sort: [{ column: { kind: 'field', field: 'region' } }] }],
  ['by since when they are in an audience', { sort: [{ column: { kind: 'audience', audience: 'scale-1' }, down: true }] }],
  ['by the last signal from them', { sort: [{ column: { kind: 'last', of: 'from them' }, down: true }] }],
  ['three deep', { sort: [{ column: SCORE, down: true }, { column: { kind: 'stage' } }, { column: { kind: 'name' } }] }],
  ['by a score, of one region', { condition: REGION, sort: [{ column: SCORE, down: true }] }],
  ['searched for', { search: 'person 4321' }],
];

interface ManyPeople {
  readonly address: string;
  readonly key: string;
  readonly databaseUrl: string;
  readonly contacts: number;
}

/** How long what people look at takes over very many contacts: tables, counts, a contact, and what is counted over everyone. */
export async function manyPeople({ address, key, databaseUrl, contacts }: ManyPeople): Promise<void> {
  const call = callsByKey(address, key);
  const timed = async (method: string, path: string, body?: object, rounds = ROUNDS): Promise<readonly number[]> => {
    const times: number[] = [];
    for (let round = 0; round < rounds; round += 1) {
      const begin = performance.now();
      await call(method, path, body);
      times.push(performance.now() - begin);
    }
    return times;
  };
  const people = (asked: object) => timed('POST', '/api/v1/audiences/people', { condition: EVERYONE, limit: PAGE, ...asked });
  const told = (words: string, times: readonly number[], wanted = ''): void =>
    say(`  ${words}: median ${median(times).toFixed(0)} ms, slowest ${Math.max(...times).toFixed(0)} ms${wanted}`);

  const { count } = await call<{ count: number }>('POST', '/api/v1/audiences/count', { condition: EVERYONE });
  if (count !== contacts) throw new Error(`there are ${count} contacts where there should be ${contacts}`);
  say(`the counting index of ${contacts} contacts, from the database: ready after ${(await indexReady(address, key)).toFixed(0)} s`);
  say(`${PAGE} rows of the table of ${contacts} people (wanted: 200 ms)`);
  for (const [words, asked] of TABLES) told(words, await people(asked));
  for (const [words, skip] of [
    ['in the middle', Math.floor(contacts / 2)],
    ['at the end', contacts - PAGE],
  ] as const)
    told(`by a score, ${words}`, await people({ sort: [{ column: SCORE, down: true }], skip }));

  const { audiences } = await call<{ audiences: readonly { key: string; of?: string; condition?: object }[] }>(
    'GET',
    '/api/v1/definitions',
  );
  const counted = audiences.filter(({ condition, of }) => condition !== undefined && of !== 'company');
  const fresh: number[] = [];
  const kept: number[] = [];
  for (const { condition } of counted) {
    const [first = 0, ...again] = await timed('POST', '/api/v1/audiences/count', { condition });
    fresh.push(first);
    kept.push(median(again));
  }
  const spread = (times: readonly number[]): string =>
    `median ${median(times).toFixed(0)} ms, p95 ${quantile(times, 0.95).toFixed(0)} ms, slowest ${Math.max(...times).toFixed(0)} ms`;
  say(`exact counts of ${counted.length} audiences, asked for the first time: ${spread(fresh)} (wanted: p95 150, none over 400)`);
  say(`  asked again: ${spread(kept)} (wanted: p95 50, none over 150)`);
  await beside(databaseUrl, call);
  const [everyone, bare] = [median(await timed('POST', '/api/v1/audiences/count', { condition: EVERYONE })), await bareCount(databaseUrl)];
  say(`  everyone: ${everyone.toFixed(0)} ms; the same count by hand ${bare.toFixed(0)} ms: ${(everyone / bare).toFixed(1)} times as long`);
  told('the sieve of six lines', await timed('POST', '/api/v1/audiences/count', { condition: SIX_LINES, sieve: true }), ' (wanted: 150)');

  say('what is looked at beside them');
  told('a contact', await timed('GET', '/api/v1/contacts/person17@scale.example'));
  told('the funnel of the ladder', await timed('GET', '/api/app/ladder/funnel'));
  told('who may be here twice', await timed('GET', '/api/app/duplicates'));
  told('the figures of the tags', await timed('GET', '/api/app/tags/figures'));
  told('today', await timed('GET', '/api/app/today'));
}

/** Counts beside the same counts by hand, which have to come to the same. */
async function beside(databaseUrl: string, call: <Answer>(method: string, path: string, body?: object) => Promise<Answer>): Promise<void> {
  // Only there once it has been built, which the bench sees to.
  const { Moment } = await import('@eager-sieve/core');
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  const { timeZone } = await call<{ timeZone: string }>('GET', '/api/v1/definitions');
  for (const asked of BY_HAND) {
    const times: number[] = [];
    const byHand: number[] = [];
    for (let round = 0; round < ROUNDS; round += 1) {
      const begin = performance.now();
      const { count, asOf } = await call<CountAnswer>('POST', '/api/v1/audiences/count', { condition: asked.condition });
      times.push(performance.now() - begin);
      const now = new Date(asOf);
      const from = new Date(new Moment(now.getTime(), timeZone).lastStart(asked.days, 'days'));
      const { n, ms } = await countedByHand(client, asked, from, now);
      if (n !== count) throw new Error(`${asked.words}: ${count}, and ${n} by hand`);
      byHand.push(ms);
    }
    const [first = 0, ...again] = times;
    say(
      `  ${asked.words}: first ${first.toFixed(0)} ms, then ${median(again).toFixed(0)} ms; by hand ${median(byHand).toFixed(0)} ms: ${(median(again) / median(byHand)).toFixed(2)} times as long`,
    );
  }
  await client.end();
}

/** The same question as the count of everyone asks, as plain SQL. */
async function bareCount(databaseUrl: string): Promise<number> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  const times: number[] = [];
  for (let round = 0; round < ROUNDS; round += 1) {
    const begin = performance.now();
    await client.query('select count(*) from contact where merged_into is null and last_now is not null');
    times.push(performance.now() - begin);
  }
  await client.end();
  return median(times);
}
