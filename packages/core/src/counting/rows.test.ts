import fc from 'fast-check';
import { type Signal } from '../index.ts';
import { DetailTexts, factRows, signalRows, tagRows } from './packings.ts';
import { Rows } from './rows.ts';
import { Texts } from './texts.ts';

const known = (): { texts: Texts; details: DetailTexts } => ({ texts: new Texts(), details: new DetailTexts() });
/** So many that what changed is taken into the columns several times. */
const PLACES = 3_000;
const time = fc.integer({ min: -5, max: 5 });
const tags = fc.array(fc.record({ since: time, value: fc.option(time, { nil: undefined }) }), { maxLength: 3 });

describe('rows', () => {
  it('give back what was put in last at each place, however much has changed, also after they were written down', () => {
    fc.assert(
      fc.property(fc.array(tags, { minLength: 5, maxLength: 20 }), fc.integer({ min: 1, max: 97 }), (some, step) => {
        const rows = new Rows(tagRows);
        const expected = new Map<number, (typeof some)[number]>();
        const put = (place: number, which: number): void => {
          const those = some[which % some.length] ?? [];
          rows.put(place, those);
          expected.set(place, those);
        };
        for (let place = 0; place < PLACES; place += 2) put(place, place);
        for (let n = 0; n < PLACES * 2; n += 1) put((n * (step * 2 + 1)) % (PLACES + 100), n + 1);
        for (const each of [rows, Rows.from(tagRows, rows.dump())]) {
          for (const [place, those] of expected) expect(each.get(place)).toEqual(those);
          const visited: number[] = [...each.loose()].filter((place) => each.get(place).length > 0);
          each.each((place) => visited.push(place));
          expect(visited.sort((a, b) => a - b)).toEqual(
            [...expected]
              .filter(([, those]) => those.length > 0)
              .map(([place]) => place)
              .sort((a, b) => a - b),
          );
        }
      }),
      { numRuns: 20 },
    );
  });

  it('of signals take over those that stand in the columns already as they stand there, with what was added', () => {
    const signalOf = fc.record({
      typeId: fc.constant(9),
      time: fc.integer({ min: 0, max: 20 }),
      source: fc.constantFrom('shop', 'site'),
      senderId: fc.constantFrom('', 'a', 'order ž', '漢字', 'x'.repeat(40)),
      details: fc.record({ amount: fc.integer({ min: 0, max: 3 }) }),
      historic: fc.boolean(),
    });
    const step = fc.record({
      place: fc.integer({ min: 0, max: 12 }),
      does: fc.constantFrom('adds', 'adds', 'adds', 'adds before', 'leaves some out', 'replaces', 'clears', 'settles', 'settles'),
      signals: fc.array(signalOf, { minLength: 1, maxLength: 3 }),
    });
    const plain = ({ id, typeId, time, source, senderId, details, historic }: Signal): Signal => ({
      ...{ id, typeId, time, source, senderId, details, historic },
    });
    fc.assert(
      fc.property(fc.array(step, { minLength: 20, maxLength: 60 }), (steps) => {
        const rows = new Rows(signalRows(known(), 9));
        const expected = new Map<number, readonly Signal[]>();
        let id = 0;
        for (const { place, does, signals } of steps) {
          const [there, stood] = [rows.get(place), expected.get(place) ?? []];
          const more = signals.map((signal): Signal => ({ ...signal, id: (id += 1) }));
          if (does === 'settles') rows.settle();
          else {
            const changed = <Each>(of: readonly Each[], added: readonly Each[]): readonly Each[] => {
              if (does === 'adds') return [...of, ...added];
              if (does === 'adds before') return [...added, ...of];
              if (does === 'leaves some out') return of.filter((_, index) => index % 2 === 1);
              return does === 'clears' ? [] : added;
            };
            rows.put(place, changed(there, more));
            expected.set(place, changed(stood, more));
          }
          for (const [at, those] of expected) expect(rows.get(at).map(plain)).toEqual(those);
        }
        const written = Rows.from(signalRows(known(), 9), rows.dump());
        for (const [at, those] of expected) expect(written.get(at)).toHaveLength(those.length);
      }),
      { numRuns: 150 },
    );
  });

  it('hold nothing beside the columns that is put in again as it was', () => {
    const packing = signalRows(known(), 9);
    const rows = new Rows(packing);
    const signal = (id: number, more: Partial<Signal> = {}): Signal => ({
      id,
      typeId: 9,
      time: id * 10,
      source: 'shop',
      senderId: `order ${id} ž`,
      details: { amount: id },
      historic: false,
      ...more,
    });
    for (let place = 0; place < 5; place += 1) rows.put(place, [signal(place), signal(place + 1)]);
    rows.put(2, [signal(2), signal(3)]);
    expect([...rows.loose()]).toEqual([]);
    const others: readonly (readonly Signal[])[] = [
      [signal(2)],
      [signal(3), signal(2)],
      [signal(2), signal(3), signal(4)],
      ...[{ time: 1 }, { senderId: 'order 3 z' }, { details: {} }, { historic: true }, { source: 'site' }].map((more) => [
        signal(2),
        signal(3, more),
      ]),
    ];
    for (const other of others) {
      const changed = Rows.from(packing, rows.dump());
      changed.put(2, other);
      expect([...changed.loose()]).toEqual([2]);
      expect(
        changed.get(2).map(({ time, senderId, source, historic, details }) => ({ time, senderId, source, historic, details })),
      ).toEqual(other.map(({ time, senderId, source, historic, details }) => ({ time, senderId, source, historic, details })));
    }
  });

  it('take the very first place after they were written down empty', () => {
    const rows = Rows.from(tagRows, structuredClone(new Rows(tagRows).dump()));
    rows.put(0, [{ since: 5 }]);
    const visited: number[] = [];
    rows.each((place) => visited.push(place));
    expect(visited).toEqual([0]);
  });

  it('hold facts of every kind, one at a place', () => {
    const rows = new Rows(factRows(known()));
    const facts = ['oak', 0, -12.25, ['a', 'b'], ['c'], 'a', 1e15, 0];
    facts.forEach((fact, place) => rows.put(place, [fact]));
    expect(facts.map((_, place) => rows.first(place))).toEqual(facts);
  });

  it('hold signals, in whatever letters their senders name them', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'binary' }), { minLength: 1 }), (senders) => {
        const packing = signalRows(known(), 9);
        const rows = new Rows(packing);
        const signals: Signal[] = senders.map((senderId, id) => ({
          id,
          typeId: 9,
          time: id * 10,
          source: id % 2 === 0 ? 'till' : 'site',
          senderId,
          details: { amount: id % 3, items: [{ product: 'bowl' }] },
          historic: id % 5 === 0,
        }));
        rows.put(4, signals.slice(0, 3));
        if (signals.length > 3) rows.put(5, signals.slice(3));
        for (const each of [rows, Rows.from(packing, rows.dump())]) {
          const read = [...each.get(4), ...each.get(5)];
          expect(
            read.map(({ id, typeId, time, source, senderId, details, historic }) => ({
              id,
              typeId,
              time,
              source,
              senderId,
              details,
              historic,
            })),
          ).toEqual(signals);
        }
      }),
    );
  });
});
