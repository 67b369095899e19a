import { fold } from '@eager-sieve/core';
import { type Ledger, type Timeline, type TimelineEntry, type TimelinePage } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const ANNA = 'anna@line.example';
const BO = 'bo@line.example';
const at = (time: number) => ({ time: new Date(time).toISOString() });

describe('a timeline', () => {
  let server: TestServer;
  const clock = new StandingClock(START);
  const get = async <Answer>(path: string, query: object = {}): Promise<Answer> =>
    (await server.call('get', path).query(query).expect(200)).body as Answer;
  const page = (query: object = {}, who = `contacts/${ANNA}`): Promise<TimelinePage> => get(`/api/app/${who}/timeline`, query);
  /** Every page of it, one after the other. */
  const whole = async (query: object, who?: string): Promise<readonly TimelineEntry[]> => {
    const entries: TimelineEntry[] = [];
    for (let after: string | null | undefined = undefined; after !== null;) {
      const next: TimelinePage = await page({ ...query, ...(after === undefined ? {} : { after }) }, who);
      expect(next.types === null).toBe(after !== undefined);
      entries.push(...next.entries);
      ({ after } = next);
    }
    return entries;
  };
  const put = (contacts: object[]) => server.call('put', '/api/v1/contacts').send({ contacts }).expect(200);

  beforeAll(async () => {
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: 'The mill' }] });
    await put([
      { email: ANNA, company: 'mill', fields: { 'given-name': 'Anna' } },
      { email: BO, company: 'mill' },
      { email: 'cy@line.example' },
    ]);
    // The second of them crosses a band.
    for (const order of ['a', 'b']) await server.signals(event('order.placed', ANNA, { order }, at(START)));
    for (let n = 0; n < 30; n += 1) {
      clock.moveTo(START + n * 60_000);
      // Several at the very same moment, some long before they were told, and some at the moment of a change.
      const when = n % 3 === 0 ? START + 60_000 : n % 3 === 1 ? START - n * 10 * DAY : clock.now();
      const who = [ANNA, ANNA, BO, 'cy@line.example'][n % 4] ?? ANNA;
      if (n % 2 === 0)
        await server.signals(event('order.placed', who, { order: `Nº${n}`, items: [{ product: `Glaze ${n % 5}` }] }, at(when)));
      else await server.signals(event('page.visited', who, { path: `/page-${n}` }, at(when)));
      if (n % 4 === 0) await put([{ email: ANNA, fields: { years: n, city: `Town ${n}` } }]);
      if (n % 10 === 7) await put([{ email: ANNA, tags: { 'snag.price': n === 7 } }]);
    }
    await server.idle();
  });
  afterAll(() => server.stop());

  it('is everything that happened, once and in order: each signal, and each effect under what made it', async () => {
    const entries = await whole({ limit: 7 });
    const keys = entries.map(({ key }) => key);
    expect(new Set(keys).size).toBe(keys.length);
    expect(entries.map((entry) => entry.at)).toEqual(
      entries
        .map((entry) => entry.at)
        .sort()
        .reverse(),
    );
    const { signals } = await get<Timeline>(`/api/v1/contacts/${ANNA}/signals`, { limit: 100 });
    expect(entries.flatMap(({ signal }) => (signal ? [signal.id] : []))).toEqual(signals.map(({ id }) => id));
    const { rows } = await get<Ledger>(`/api/v1/contacts/${ANNA}/ledger`, { limit: 500 });
    const effects = entries.flatMap(({ did }) => did.map(({ id }) => id));
    expect(entries.filter(({ signal, did }) => signal && did.length > 0)).not.toEqual([]);
    expect(effects.sort((a, b) => a - b)).toEqual(rows.map(({ id }) => id).sort((a, b) => a - b));
    const byHand = entries.find(({ did }) => did.some(({ words }) => words.includes('years set to 28')));
    expect(byHand).toMatchObject({ signal: null, words: 'key test', more: 0 });
    expect(byHand?.did.map(({ kind }) => kind)).toEqual(['field', 'field']);
  });

  it('is whatever page size, type and search are asked for, what the whole of it says', async () => {
    const all = await whole({ limit: 500 });
    const texts = (entry: TimelineEntry): string =>
      fold(
        [
          entry.words,
          ...entry.did.flatMap((row) => [row.words, row.rule ?? '']),
          ...(entry.signal ? [entry.signal.typeName, entry.signal.source, entry.signal.senderId, JSON.stringify(entry.signal.data)] : []),
        ].join('\n'),
      );
    const searches = ['glaze 3', 'GLAZE', 'town 1', 'Snag.Price', 'nº2', 'visited', 'the moon', 'key test', ' page-1 '];
    let found = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 40 }),
        fc.constantFrom('everything', 'signals', 'changes'),
        fc.constantFrom(undefined, 'order.placed', 'page.visited', 'message.opened'),
        fc.constantFrom(undefined, ...searches),
        async (limit, show, type, search) => {
          const asked = { limit, show, ...(type ? { type } : {}), ...(search ? { search } : {}) };
          const expected = all.filter(
            (entry) =>
              (show === 'everything' || (show === 'signals') === (entry.signal !== null)) &&
              (type === undefined || entry.signal?.type === type) &&
              (search === undefined || texts(entry).includes(fold(search.trim()))),
          );
          found += expected.length;
          expect((await whole(asked)).map(({ key }) => key)).toEqual(expected.map(({ key }) => key));
        },
      ),
      { numRuns: 40 },
    );
    expect(found).toBeGreaterThan(0);
  });

  it('says what types of signals there are, how many, how many lately, and when last', async () => {
    const { types } = await page();
    const { signals } = await get<Timeline>(`/api/v1/contacts/${ANNA}/signals`, { limit: 100 });
    const orders = signals.filter(({ type }) => type === 'order.placed');
    expect(types?.find(({ key }) => key === 'order.placed')).toEqual({
      ...{ key: 'order.placed', verb: 'ordered', people: 1, signals: orders.length, lastAt: orders[0]?.time },
      lately: orders.filter(({ time }) => Date.parse(time) >= clock.now() - 90 * DAY).length,
    });
    expect(types?.map((each) => each.signals)).toEqual(types?.map((each) => each.signals).sort((a, b) => b - a));
  });

  it('of a company is what all of its contacts did, each with whose it is, and nobody else’s', async () => {
    const entries = await whole({ limit: 5 }, 'companies/mill');
    const of = async (email: string) =>
      (await get<Timeline>(`/api/v1/contacts/${email}/signals`, { limit: 100 })).signals.map(({ id }) => id);
    const [annas, bos] = [await of(ANNA), await of(BO)];
    expect(entries.map(({ signal }) => signal?.id).sort()).toEqual([...annas, ...bos].sort());
    for (const { signal, contact } of entries) expect(contact?.name).toBe(annas.includes(signal?.id ?? 0) ? 'Anna' : BO);
    const times = entries.map((entry) => entry.at);
    expect(times).toEqual([...times].sort().reverse());
    expect((await page({}, 'companies/mill')).types?.find(({ key }) => key === 'order.placed')?.people).toBe(2);
    expect((await whole({ search: 'Anna' }, 'companies/mill')).length).toBe(annas.length);
  });

  it('keeps what a signal did when the signal is not kept any more', async () => {
    const last = (await whole({ limit: 500, show: 'signals' })).find(({ did }) => did.length > 0);
    expect(last).toBeDefined();
    await server.database.query('delete from signal where id = $1', [last?.signal?.id]);
    const kept = (await whole({ limit: 500 })).find(({ did }) => did.some(({ id }) => id === last?.did[0]?.id));
    expect(kept).toMatchObject({ signal: null, words: 'a signal' });
  });

  it('refuses a place that no page gave', async () => {
    await server.call('get', `/api/app/contacts/${ANNA}/timeline`).query({ after: 'nonsense' }).expect(422);
  });
});
