import fc from 'fast-check';
import { ContactColumns } from '../counting/contact-columns.ts';
import { actions, compiled, onOrder, order, rule, standingContact } from '../testing/acting.ts';
import { DAY, NOW, worlds } from '../testing/world.ts';
import { heldOf, settle } from '../testing/held.ts';
import { asLoaded } from './as-loaded.ts';
import { changedParts, COUNTED_PARTS } from './changed-parts.ts';
import { type Needs } from './compiled.ts';
import { pass } from './pass.ts';
import { SubjectState } from './state.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const all = { has: () => true } as unknown as ReadonlySet<never>;
const EVERYTHING: Needs = { signals: all, data: all, changes: all, pastTags: all, leavings: all, contactsOfCompanies: true };

const held = (columns: ContactColumns, { id }: SubjectState): string => {
  settle(columns);
  return JSON.stringify(heldOf(columns, id));
};

describe('the parts of a contact that have changed', () => {
  it('are all that has to be put into the columns after a pass, whatever it did', () => {
    let parts = 0;
    let passes = 0;
    fc.assert(
      fc.property(
        worlds,
        fc.array(actions, { minLength: 1, maxLength: 4 }),
        fc.array(fc.constantFrom(0, 1, DAY, 8 * DAY, 31 * DAY), { minLength: 1, maxLength: 4 }),
        (world, then, gaps) => {
          const definitions = compiled(rule(100, onOrder, then));
          const state = standingContact(definitions, world);
          const columns = new ContactColumns();
          columns.put(state);
          let now = NOW;
          gaps.forEach((gap, index) => {
            asLoaded(state, EVERYTHING);
            now += gap;
            if (index % 2 === 0) pass(definitions, state, { kind: 'signal', signal: order(900_000 + index, now), data: {} }, now);
            else pass(definitions, state, { kind: 'due' }, now);
            const changed = changedParts(state);
            columns.update(state, changed ?? COUNTED_PARTS);
            const whole = new ContactColumns();
            whole.put(state);
            expect(held(columns, state)).toBe(held(whole, state));
            parts += changed?.length ?? 0;
            passes += 1;
          });
        },
      ),
      { numRuns: RUNS },
    );
    expect(parts).toBeGreaterThan(passes / 2);
    expect(parts).toBeLessThan((passes * COUNTED_PARTS.length) / 2);
  });

  it('are not known of a company, of whom signals were taken, and of whoever has another company', () => {
    const made = (kind: 'contact' | 'company') => new SubjectState({ id: 1, kind, isNew: false, lastNow: 0, dueAt: undefined });
    expect(changedParts(made('company'))).toBeUndefined();
    const robbed = made('contact');
    robbed.addSignal(order(7, NOW));
    expect(changedParts(robbed)).toEqual([]);
    robbed.removeSignals(new Set([8]));
    expect(changedParts(robbed)).toEqual([]);
    robbed.removeSignals(new Set([7]));
    expect(changedParts(robbed)).toBeUndefined();
    const moved = made('contact');
    moved.changedLinks.add('owner');
    expect(changedParts(moved)).toEqual([]);
    moved.changedLinks.add('company');
    expect(changedParts(moved)).toBeUndefined();
  });
});

describe('a contact that has been written down', () => {
  it('has not changed, and knows of its past what definitions read', () => {
    fc.assert(
      fc.property(worlds, fc.array(actions, { minLength: 1, maxLength: 4 }), (world, then) => {
        const definitions = compiled(rule(100, onOrder, then));
        const state = standingContact(definitions, world);
        pass(definitions, state, { kind: 'signal', signal: order(900_000, NOW), data: {} }, NOW);
        const { needs } = definitions;
        const wanted = [...state.signals].filter(([type]) => needs.signals.has(type));
        asLoaded(state, needs);
        expect(state.isUnchanged).toBe(true);
        expect(changedParts(state)).toEqual([]);
        expect([...state.signals]).toEqual(wanted);
        for (const key of state.changes.keys()) expect(needs.changes.has(key)).toBe(true);
      }),
      { numRuns: RUNS / 3 },
    );
  });
});
