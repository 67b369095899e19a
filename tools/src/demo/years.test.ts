import {
  addToDay,
  compareSignals,
  Compiled,
  differences,
  localDay,
  pass,
  readDetails,
  startOfDay,
  SubjectState,
  type Catalogue,
  type Change,
  type Signal,
} from '@eager-sieve/core';
import { Chance } from './chance';
import { demoCatalogue } from './catalogue';
import { makeCompanies, makeLinks, makeTradeSignals } from './trade';
import { makeContacts, makeSignals } from './world';

const CONTACTS = Number(process.env['SIEVE_YEARS_CONTACTS'] ?? 90);
const SAMPLED = 200;
const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** Two years with a leap day in them, and four nights on which the clocks are changed. */
const BEGIN = Date.UTC(2027, 0, 15, 11);
const END = Date.UTC(2029, 0, 15, 11);
const MOVE = Date.UTC(2028, 5, 1, 12);
const NIGHTS = [
  Date.UTC(2027, 2, 28, 1),
  Date.UTC(2027, 9, 31, 1),
  Date.UTC(2028, 1, 28, 23),
  Date.UTC(2028, 1, 29, 23),
  Date.UTC(2028, 2, 26, 1),
  Date.UTC(2028, 9, 29, 1),
];

interface Arriving {
  readonly contact: number;
  readonly at: number;
  readonly signal: Signal;
  readonly data: unknown;
}

/** Everything that happens in two years: the demo's year, drawn out over both, and some of it arriving late. */
function arrivals(catalogue: Catalogue, contacts: ReturnType<typeof makeContacts>): readonly Arriving[] {
  const chance = new Chance(2_027);
  const indexOf = new Map(contacts.map((contact, index) => [contact.email, index]));
  const companies = makeCompanies(contacts.length);
  const events = [
    ...Array.from({ length: 4 }, () => makeSignals(contacts, END)).flat(),
    ...makeTradeSignals(contacts, makeLinks(contacts, companies), END),
  ];
  return events
    .flatMap((event, index): Arriving[] => {
      const contact = indexOf.get(event.subject);
      const type = catalogue.find('signalType', event.type);
      if (contact === undefined || !type) return [];
      // Somewhere in the two years, so that each of the four copies of the demo's year is another.
      const time = BEGIN + Math.floor(chance.next() * (END - BEGIN));
      const { details } = readDetails(type.body.fields, event.data, catalogue.zone, catalogue.workspace);
      const late = chance.happens(0.1) ? Math.floor(chance.next() * 20 * DAY) : 0;
      const signal = {
        id: index + 1,
        typeId: type.id,
        time,
        source: event.source,
        senderId: `${event.id}-${index}`,
        details,
        historic: chance.happens(0.05),
      };
      return [{ contact, at: Math.min(END, time + late), signal, data: event.data }];
    })
    .sort((a, b) => a.at - b.at || compareSignals(a.signal, b.signal));
}

/** Works what the clock does up to an instant, each step at its own. */
function until(compiled: Compiled, state: SubjectState, instant: number): number {
  let steps = 0;
  while (state.dueAt !== undefined && state.dueAt <= instant) {
    const due = state.dueAt;
    pass(compiled, state, { kind: 'due' }, due);
    expect(state.dueAt === undefined || state.dueAt > due).toBe(true);
    steps += 1;
  }
  return steps;
}

describe('two years of the demo world', () => {
  it('end each sampled instant where a computation from scratch ends, through clock changes, a leap day and a move of the zone', () => {
    const contacts = makeContacts(CONTACTS);
    const stockholm = demoCatalogue(1);
    const before = new Compiled(stockholm, 1);
    const after = new Compiled(demoCatalogue(2, 'America/St_Johns'), 2);
    expect([before.broken, after.broken]).toEqual([[], []]);
    const states = contacts.map((_, index) => new SubjectState({ id: index + 1, isNew: true, lastNow: 0, dueAt: undefined }));
    const facts = (index: number): Change[] => {
      const row = contacts[index]?.row ?? {};
      const change = (key: string, fact: string | number | undefined): Change[] => {
        const field = stockholm.find('field', key);
        return field && fact !== undefined && fact !== '' ? [{ kind: 'field', field: field.id, value: { fact } }] : [];
      };
      const day = (text: string | undefined): number | undefined => (text ? Date.parse(`${text}T00:00:00Z`) / DAY : undefined);
      return [
        ...change('region', row['Region']),
        ...change('wheel-years', row['Years at wheel'] ? Number(row['Years at wheel']) * 1_000_000 : undefined),
        ...change('birthday', day(row['Birthday'])),
        ...change('first-class', index === 7 ? day('2024-02-29') : index % 3 === 0 ? day('2026-03-28') : undefined),
        { kind: 'consent', channel: 'email', state: index % 4 === 0 ? 'withdrawn' : 'given', at: BEGIN },
      ];
    };
    states.forEach((state, index) =>
      pass(before, state, { kind: 'edit', changes: facts(index), cause: { kind: 'import', ref: 'demo' } }, BEGIN),
    );

    const chance = new Chance(200);
    const evenly = Array.from({ length: SAMPLED - 2 * NIGHTS.length }, () => BEGIN + Math.floor(chance.next() * (END - BEGIN)));
    // Just before and at the first instant of the days around each change of the clocks and of the leap day.
    const edges = NIGHTS.flatMap((night) => {
      const start = startOfDay(addToDay(localDay(night, 'Europe/Stockholm'), 1, 'days'), 'Europe/Stockholm');
      return [start - 1, start];
    });
    const samples = [...evenly, ...edges].sort((a, b) => a - b);
    expect(samples).toHaveLength(SAMPLED);

    const events = arrivals(stockholm, contacts);
    let next = 0;
    let steps = 0;
    let moved = 0;
    let compiled = before;
    for (const instant of samples) {
      for (let arriving = events[next]; arriving && arriving.at <= instant; arriving = events[(next += 1)]) {
        const state = states[arriving.contact] as SubjectState;
        if (compiled === before && arriving.at >= MOVE) compiled = after;
        steps += until(compiled, state, arriving.at);
        pass(compiled, state, { kind: 'signal', signal: arriving.signal, data: arriving.data }, arriving.at);
      }
      if (compiled === before && instant >= MOVE) compiled = after;
      for (const state of states) {
        steps += until(compiled, state, instant);
        // A move of the zone is brought up for everyone, as the build does it.
        if (state.epoch < compiled.epoch) {
          pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'zone' } }, Math.max(instant, state.lastNow));
          moved += 1;
        }
        expect(differences(compiled, state, Math.max(instant, state.lastNow))).toEqual([]);
      }
    }
    expect(moved).toBeGreaterThan(0);
    expect(moved).toBeLessThanOrEqual(CONTACTS);
    expect(steps).toBeGreaterThan(CONTACTS * 20);
    expect(states.some((state) => state.firings.size > 3)).toBe(true);
  }, 300_000);
});
