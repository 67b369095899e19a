import fc from 'fast-check';
import { NO_TURNS, takeTurn, withTeams, type RoutingBody, type Turns } from '../index.ts';
import { DAY, NOW } from '../testing/world.ts';

const ZONE = 'Europe/London';
const NAMES = ['ada@test.example', 'bo@test.example', 'cy@test.example', 'di@test.example'];
type Table = Pick<RoutingBody, 'rows' | 'people'>;

const tables = fc
  .record({
    count: fc.integer({ min: 1, max: 4 }),
    shares: fc.array(fc.integer({ min: 1, max: 6 }), { minLength: 4, maxLength: 4 }),
  })
  .map(({ count, shares }) => {
    const owners = NAMES.slice(0, count);
    return { owners, people: owners.map((who, index) => ({ who, share: shares[index] ?? 1 })) };
  });

/** The owners of so many turns, one after the other. */
function turnsOf(table: Table, many: number, { turns = NO_TURNS, at = () => NOW }: { turns?: Turns; at?: (n: number) => number } = {}) {
  const owners: (string | undefined)[] = [];
  let standing = turns;
  for (let n = 0; n < many; n += 1) {
    const taken = takeTurn(table, standing, ['all'], at(n), ZONE);
    owners.push(taken?.owner);
    standing = taken?.turns ?? standing;
  }
  return { owners, turns: standing };
}
const countOf = (owners: readonly (string | undefined)[], who: string): number => owners.filter((each) => each === who).length;

describe('turns', () => {
  it('everybody takes just their share of as many turns as there are shares, again and again', () => {
    fc.assert(
      fc.property(tables, fc.integer({ min: 1, max: 4 }), ({ owners, people }, rounds) => {
        const all = people.reduce((sum, { share }) => sum + share, 0);
        const given = turnsOf({ rows: [{ key: 'all', owners }], people }, all * rounds).owners;
        for (const { who, share } of people) expect(countOf(given, who)).toBe(share * rounds);
      }),
    );
  });

  it('are spread: nobody is ever ahead of or behind their share by as much as a whole round', () => {
    fc.assert(
      fc.property(tables, ({ owners, people }) => {
        const all = people.reduce((sum, { share }) => sum + share, 0);
        const given = turnsOf({ rows: [{ key: 'all', owners }], people }, all).owners;
        for (let n = 1; n <= all; n += 1)
          for (const { who, share } of people)
            expect(Math.abs(countOf(given.slice(0, n), who) - (share * n) / all)).toBeLessThan(Math.max(1, owners.length - 1));
      }),
    );
  });

  it('go round in order where nobody has a share of their own', () => {
    const rows = [{ key: 'all', owners: NAMES.slice(0, 3) }];
    expect(turnsOf({ rows }, 7).owners.map((who) => NAMES.indexOf(who ?? ''))).toEqual([0, 1, 2, 0, 1, 2, 0]);
    expect(turnsOf({ rows }, 2, { turns: { rows: new Map([['all', { last: NAMES[1], credits: {} }]]), given: new Map() } }).owners).toEqual(
      [NAMES[2], NAMES[0]],
    );
  });

  it('pass over who is away, who comes back to their share and to no more', () => {
    const rows = [{ key: 'all', owners: NAMES.slice(0, 2) }];
    const people = [{ who: NAMES[0] as string, share: 1, backOn: '2026-03-05' }];
    const away = turnsOf({ rows, people }, 9, { at: () => Date.UTC(2026, 2, 4, 23, 59) });
    expect(countOf(away.owners, NAMES[1] as string)).toBe(9);
    const back = turnsOf({ rows, people }, 10, { turns: away.turns, at: () => Date.UTC(2026, 2, 5) });
    expect(countOf(back.owners, NAMES[0] as string)).toBe(5);
  });

  it('never give anybody more in a day than they take, and give what is left over to others, or to nobody', () => {
    fc.assert(
      fc.property(tables, fc.array(fc.integer({ min: 1, max: 3 }), { minLength: 4, maxLength: 4 }), ({ owners, people }, limits) => {
        const limited = people.map((person, index) => ({ ...person, perDay: limits[index] ?? 1 }));
        const table = { rows: [{ key: 'all', owners }], people: limited };
        const taken = limited.reduce((sum, { perDay }) => sum + perDay, 0);
        const today = turnsOf(table, taken + 3);
        for (const { who, perDay } of limited) expect(countOf(today.owners, who)).toBe(perDay);
        expect(today.owners.slice(taken)).toEqual([undefined, undefined, undefined]);
        expect(turnsOf(table, 1, { turns: today.turns, at: () => NOW + DAY }).owners).not.toContain(undefined);
      }),
    );
  });

  it('go on to the next row where nobody is free in the first', () => {
    const table = {
      rows: [
        { key: 'first', owners: [NAMES[0] as string] },
        { key: 'rest', owners: [NAMES[1] as string] },
      ],
      people: [{ who: NAMES[0] as string, share: 1, perDay: 1 }],
    };
    const one = takeTurn(table, NO_TURNS, ['first', 'rest'], NOW, ZONE);
    const two = takeTurn(table, one?.turns ?? NO_TURNS, ['first', 'rest'], NOW, ZONE);
    expect([one, two].map((taken) => [taken?.row, taken?.owner])).toEqual([
      ['first', NAMES[0]],
      ['rest', NAMES[1]],
    ]);
    expect(takeTurn(table, two?.turns ?? NO_TURNS, ['first'], NOW, ZONE)).toBeUndefined();
    expect(takeTurn(table, NO_TURNS, ['gone'], NOW, ZONE)).toBeUndefined();
  });

  it('are of a team as if its people were named, each once', () => {
    fc.assert(
      fc.property(fc.subarray(NAMES), fc.subarray(NAMES), (owners, members) => {
        const all = [...new Set([...owners, ...members])];
        const table = { rows: [{ key: 'all', owners, team: 'Harbour' }] };
        const given = turnsOf(
          withTeams(table, (team) => (team === 'Harbour' ? members : [])),
          all.length * 2,
        ).owners;
        for (const who of all) expect(countOf(given, who)).toBe(2);
        if (all.length === 0) expect(given).toEqual([]);
      }),
    );
  });
});
