import { Compiled, SubjectState } from '@eager-sieve/core';
import { setTimeout as wait } from 'node:timers/promises';
import fc from 'fast-check';
import { catalogue } from '../../../packages/core/src/testing/world';
import { KeptStates } from '../src/engine/kept-states';
import { DatabaseClock } from '../src/engine/clock';
import { buildStep } from '../src/engine/builds';
import { turn, USUAL } from '../src/engine/turn';
import { DefinitionStore } from '../src/settings/definition-store';
import { ADMIN, event, TestServer } from './harness';
import { keptOtherwise } from './kept';
import { SET_UP } from './world';

const COMPILED = new Compiled(catalogue, 1);
const LANE = 3;
const contact = (id: number, signals = 0): { readonly state: SubjectState; readonly lane: number } => {
  const state = new SubjectState({ id, isNew: false, lastNow: 0, dueAt: undefined });
  const typeId = [...COMPILED.needs.signals].find((type) => !COMPILED.needs.data.has(type)) ?? 0;
  for (let n = 1; n <= signals; n += 1)
    state.addSignal({ id: n, typeId, time: n, source: 'shop', senderId: String(n), details: {}, historic: false });
  return { state, lane: LANE };
};
const at = (revision: number): readonly { lane: number; revision: number }[] => [{ lane: LANE, revision }];

describe('what a worker keeps of contacts', () => {
  it('is handed out once, as long as nobody else has worked in their lane', () => {
    const kept = new KeptStates();
    const ada = contact(1);
    kept.begin(COMPILED, at(4));
    expect(kept.take(1)).toBeUndefined();
    kept.keep([ada], new Map([[LANE, 5]]));
    kept.begin(COMPILED, at(5));
    expect(kept.take(1)).toBe(ada.state);
    expect(kept.take(1)).toBeUndefined();
    kept.keep([ada], new Map([[LANE, 6]]));
    kept.begin(COMPILED, at(7));
    expect(kept.take(1)).toBeUndefined();
  });

  it('is not known under other definitions', () => {
    const kept = new KeptStates();
    kept.begin(COMPILED, at(1));
    kept.keep([contact(1)], new Map([[LANE, 2]]));
    kept.begin(new Compiled(catalogue, 2), at(2));
    expect(kept.take(1)).toBeUndefined();
  });

  it('goes where it is much: first what was used longest ago', () => {
    const kept = new KeptStates(340);
    kept.begin(COMPILED, at(1));
    kept.keep([contact(1, 10), contact(2, 10), contact(3, 10)], new Map([[LANE, 2]]));
    kept.begin(COMPILED, at(2));
    const two = kept.take(2) as SubjectState;
    kept.keep([{ state: two, lane: LANE }], new Map([[LANE, 3]]));
    kept.begin(COMPILED, at(3));
    kept.keep([contact(4, 10)], new Map([[LANE, 4]]));
    kept.begin(COMPILED, at(4));
    expect([1, 2, 3, 4].filter((id) => kept.take(id))).toEqual([2, 3, 4]);
  });

  it('is not a company, nor what a turn did not write', () => {
    const kept = new KeptStates();
    kept.begin(COMPILED, at(1));
    const company = new SubjectState({ id: 9, kind: 'company', isNew: false, lastNow: 0, dueAt: undefined });
    kept.keep([{ state: company, lane: LANE }, contact(1)], new Map());
    expect([kept.take(9), kept.take(1)]).toEqual([undefined, undefined]);
  });
});

describe('workers that keep what they know of contacts', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 0 });
    await server.call('put', '/api/v1/definitions').send(SET_UP).expect(200);
  });
  afterAll(() => server.stop());

  const PEOPLE = 3;
  const emailOf = (n: number): string => `kept${n}@test.example`;
  const steps = fc.array(
    fc.record({
      worker: fc.nat({ max: 1 }),
      who: fc.nat({ max: PEOPLE - 1 }),
      does: fc.constantFrom('orders', 'opens', 'answers', 'is tagged', 'is not tagged', 'consents', 'is minded', 'moves'),
    }),
    { minLength: 4, maxLength: 14 },
  );
  const edit = (who: number, change: object): Promise<unknown> =>
    server.call('put', '/api/v1/contacts').send({ contacts: [{ email: emailOf(who), ...change }] });
  const signal = (type: string, who: number, details: object): Promise<unknown> =>
    server
      .call('post', '/api/v1/signals')
      .set('content-type', 'application/cloudevents-batch+json')
      .send(JSON.stringify([event(type, emailOf(who), details)]));
  const DOES: Readonly<Record<string, (who: number, n: number) => Promise<unknown>>> = {
    orders: (who, n) => signal('order.placed', who, { order: `k${n}` }),
    opens: (who) => signal('message.opened', who, {}),
    answers: (who) => signal('form.answered', who, { form: 'find', answers: { stops: 'price' } }),
    'is tagged': (who) => edit(who, { addTags: ['snag.keen'] }),
    'is not tagged': (who) => edit(who, { removeTags: ['snag.keen'] }),
    consents: (who, n) => edit(who, { consent: { email: n % 2 === 0 ? 'given' : 'withdrawn' } }),
    'is minded': (who) => edit(who, { owner: ADMIN.email }),
    moves: (who, n) => edit(who, { fields: { city: n % 3 === 0 ? 'Oakham' : 'Mill End' } }),
  };

  it('come to what is worked out from scratch, whichever of them works what', async () => {
    const store = new DefinitionStore();
    const workers = [new KeptStates(), new KeptStates(100)].map((kept, n) => ({ kept, name: `worker ${n}` }));
    const taken = jest.spyOn(KeptStates.prototype, 'take');
    const clock = new DatabaseClock();
    let n = 0;
    while ((await buildStep(server.database, store, clock)) || (await turn(server.database, store, clock, 'first')).count > 0);
    await fc.assert(
      fc.asyncProperty(steps, async (stream) => {
        for (const { worker, who, does } of stream) {
          const { kept, name } = workers[worker] as (typeof workers)[number];
          // Some requests are answered only when what they ask has been worked.
          let isAnswered = false;
          void DOES[does]?.(who, (n += 1)).then(() => (isAnswered = true));
          while ((await turn(server.database, store, clock, name, USUAL, undefined, kept)).count > 0 || !isAnswered) await wait(2);
          while ((await turn(server.database, store, clock, name, USUAL, undefined, kept)).count > 0);
          expect(await keptOtherwise(server.database, (await store.current(server.database)).compiled)).toEqual([]);
        }
        expect((await server.verify()).differences).toBe(0);
      }),
      { numRuns: Number(process.env['PROPERTY_RUNS'] ?? 25) },
    );
    const handedOut = taken.mock.results.filter(({ value }) => value !== undefined).length;
    taken.mockRestore();
    expect(handedOut).toBeGreaterThan(20);
  });
});
