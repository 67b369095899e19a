import fc from 'fast-check';
import { holds, Moment, orThrow, prepare, type ConditionNode, type SubjectState } from '../index.ts';
import { catalogue, conditions, DAY, NOW, statesOf, worlds, ZONE, COMPANY_IDS } from '../testing/world.ts';
import { ContactColumns } from './contact-columns.ts';
import { countTogether } from './count.ts';
import { LineSets } from './line-sets.ts';
import { linesOf } from './bits.ts';
import { lineKey } from './line-key.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 600);

/** What happens between two questions. */
type Step =
  { readonly kind: 'put' | 'drop'; readonly who: number } | { readonly kind: 'clock'; readonly ms: number } | { readonly kind: 'dumped' };
const who = fc.nat({ max: 7 });
const steps = fc.array(
  fc.oneof<[fc.Arbitrary<Step>, fc.Arbitrary<Step>, fc.Arbitrary<Step>, fc.Arbitrary<Step>]>(
    who.map((each) => ({ kind: 'put', who: each }) as const),
    who.map((each) => ({ kind: 'drop', who: each }) as const),
    fc.constantFrom(0, 1, 3_600_000, DAY, 7 * DAY, 29 * DAY, 31 * DAY, 400 * DAY).map((ms) => ({ kind: 'clock', ms }) as const),
    fc.constant({ kind: 'dumped' } as const),
  ),
  { minLength: 1, maxLength: 8 },
);

/** As what was written to a file and read from it. */
const readAgain = (columns: ContactColumns): ContactColumns => {
  const read = new ContactColumns();
  for (const part of columns.dump()) read.take(structuredClone(part));
  return read;
};

describe('sets of lines', () => {
  it('are kept exact through any stream of changes, whatever the clock does between two questions', () => {
    let truths = 0;
    let asked = 0;
    fc.assert(
      fc.property(worlds, worlds, fc.array(conditions, { minLength: 1, maxLength: 3 }), steps, (first, second, written, stream) => {
        const nodes = written.map((condition) => orThrow(prepare(condition, catalogue)));
        let sets = new LineSets(new ContactColumns());
        const here = new Map<number, SubjectState>();
        const pools = [first, second].map((world) => statesOf(world).contacts);
        const put = (state: SubjectState | undefined): void => {
          if (!state) return;
          sets.columns.put(state);
          here.set(state.id, state);
          // Whoever belongs to the company reads of it what was last said.
          for (const each of here.values()) if (each.company === state.company) each.companyFacts = state.companyFacts;
        };
        const agree = (instant: number): void => {
          const moment = new Moment(instant, ZONE);
          const expected = nodes.map((node) => [...here.values()].filter((state) => holds(node, state, moment)).length);
          expect(countTogether(sets, nodes, moment)).toEqual(expected);
          truths += expected.reduce((sum, n) => sum + n, 0);
          asked += here.size * nodes.length;
        };
        for (const state of pools[0] ?? []) put(state);
        let instant = NOW;
        agree(instant);
        stream.forEach((step, index) => {
          if (step.kind === 'put') put(pools[index % 2]?.[step.who]);
          else if (step.kind === 'clock') instant += step.ms;
          else if (step.kind === 'drop') {
            sets.columns.drop(step.who + 1);
            here.delete(step.who + 1);
          } else sets = new LineSets(readAgain(sets.columns));
          agree(instant);
        });
      }),
      { numRuns: RUNS },
    );
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });

  it('are worked out anew for a moment that is past, and under a small limit', () => {
    fc.assert(
      fc.property(worlds, fc.array(conditions, { minLength: 2, maxLength: 4 }), (world, written) => {
        const { contacts } = statesOf(world);
        const nodes = written.map((condition) => orThrow(prepare(condition, catalogue)));
        const columns = new ContactColumns();
        for (const state of contacts) columns.put(state);
        const sets = new LineSets(columns, 1);
        for (const instant of [NOW, NOW + 31 * DAY, NOW, NOW - 7 * DAY]) {
          const moment = new Moment(instant, ZONE);
          expect(countTogether(sets, nodes, moment)).toEqual(
            nodes.map((node) => contacts.filter((state) => holds(node, state, moment)).length),
          );
        }
      }),
      { numRuns: RUNS / 4 },
    );
  });

  it('follow a company to all who belong to it', () => {
    const field = catalogue.all('field').find(({ body }) => body.of === 'company' && body.type === 'text')?.id ?? 0;
    const filled: ConditionNode = { kind: 'field', of: 'company', field, test: { ask: 'filled', storage: 'text' } };
    const columns = new ContactColumns();
    const sets = new LineSets(columns);
    const [world] = fc.sample(
      worlds.filter((each) => each.contacts.some((contact) => contact.company === 0)),
      1,
    );
    const { contacts } = statesOf(world as NonNullable<typeof world>);
    for (const state of contacts) columns.put(state);
    const moment = new Moment(NOW, ZONE);
    const others = contacts.filter((state) => state.company !== COMPANY_IDS[0] && state.companyFacts?.get(field) !== undefined).length;
    for (const facts of [new Map(), new Map([[field, 'clay']]), new Map()]) {
      columns.putCompany(COMPANY_IDS[0], facts);
      const theirs = facts.size === 0 ? 0 : contacts.filter((state) => state.company === COMPANY_IDS[0]).length;
      expect(countTogether(sets, [filled], moment)).toEqual([others + theirs]);
    }
  });

  it('forget the texts that nobody has any more when they are written down', () => {
    const [world] = fc.sample(worlds, 1);
    const { contacts } = statesOf(world as NonNullable<typeof world>);
    const columns = new ContactColumns();
    for (const state of contacts) {
      state.facts.set(10, `only ${state.id}`);
      columns.put(state);
    }
    columns.drop(1);
    const written = JSON.stringify([...columns.dump()].map((part) => ('texts' in part ? part.texts : [])));
    expect(written).not.toContain('"only 1"');
    for (const { id } of contacts.slice(1)) expect(written).toContain(`"only ${id}"`);
  });

  it('go by names that tell different lines apart', () => {
    fc.assert(
      fc.property(conditions, conditions, worlds, (one, two, world) => {
        const [a, b] = [one, two].map((condition) => [...linesOf([orThrow(prepare(condition, catalogue))])]);
        const { contacts } = statesOf(world);
        const moment = new Moment(NOW, ZONE);
        for (const left of a ?? []) {
          for (const right of b ?? []) {
            if (lineKey(left) !== lineKey(right)) continue;
            for (const state of contacts) expect(holds(left, state, moment)).toBe(holds(right, state, moment));
          }
        }
      }),
      { numRuns: RUNS },
    );
  });
});
