import fc from 'fast-check';
import { parseCondition, toKeys, type Fault } from './index.ts';
import { catalogue, conditions } from './testing/world.ts';

const faultsOf = (condition: unknown): readonly Fault[] => {
  const parsed = parseCondition(condition, catalogue);
  return parsed.ok ? [] : parsed.faults;
};
const told = (condition: unknown): readonly string[] => faultsOf(condition).map(({ path, expected }) => `${path.join('.')}: ${expected}`);
const tag = { kind: 'tag', tag: 'fam.one', op: 'has' };
const order = { kind: 'signal', type: 'order.placed' };

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 1_500);

describe('a condition that is not one', () => {
  it.each<[unknown, readonly (string | RegExp)[]]>([
    [{ kind: 'tagg', tag: 'fam.one', op: 'has' }, [/^kind: one of field, tag, signal, change, compare/]],
    [{ ...tag, op: 'hat' }, ['op: one of has, lacks, had, lost']],
    [{ kind: 'consent', channel: 'fax', op: 'is', value: 'given' }, ['channel: one of email, text, chat']],
    [{ match: 'some', of: [tag] }, ['match: one of all, any, none']],
    [{ match: 'all', of: [tag, { kind: 'tag' }] }, [/^of\.1\.tag: a text, which is missing$/, /^of\.1\.op: one of has, lacks, had, lost$/]],
    [
      { kind: 'field', of: 'contact', field: 'f-0', op: 'is one of', value: Array.from({ length: 101 }, String) },
      ['value: at most 100 values'],
    ],
    [{ match: 'all', of: Array.from({ length: 201 }, () => tag) }, ['of: at most 200 lines']],
    [{ ...order, within: { last: 30 } }, ['within.unit: one of minutes, hours, days, weeks, months, years']],
    [{ ...order, within: { last: 'many', unit: 'days' } }, ['within.last: a number']],
    [{ ...order, within: { next: 3, unit: 'days' } }, ['within: ever, or "last", "olderThan", or "from" and "to"']],
    [{ ...order, count: { op: '>' } }, [/^count\.value: /]],
    [{ ...tag, more: true }, [': nothing under “more”, which is not known here']],
    ['tag', [': an object']],
    [null, [': an object']],
    [{}, [/^kind: one of field/]],
  ])('has faults that say where, and what would be right', (condition, expected) => {
    const found = told(condition);
    for (const each of expected) expect(found).toContainEqual(typeof each === 'string' ? each : expect.stringMatching(each));
  });

  it('never answers with the words of a library, whatever is wrong with it, and leads to where that is', () => {
    type Json = Record<string, unknown> | unknown[];
    const places = (value: unknown, path: readonly (string | number)[] = []): (readonly (string | number)[])[] => {
      if (typeof value !== 'object' || value === null) return [path];
      return [path, ...Object.entries(value).flatMap(([key, inner]) => places(inner, [...path, Array.isArray(value) ? Number(key) : key]))];
    };
    const junk = fc.constantFrom<unknown>(null, 3, 'x', '', true, [], {}, { last: 3 }, [1], -1e12, undefined);
    let refused = 0;
    fc.assert(
      fc.property(conditions, fc.nat(), junk, fc.boolean(), (condition, at, replacement, removes) => {
        const written = JSON.parse(JSON.stringify(toKeys(condition, catalogue))) as Json;
        const all = places(written);
        const path = all[at % all.length] as (string | number)[];
        let holder: unknown = { root: written };
        for (const key of ['root', ...path.slice(0, -1)]) holder = path.length === 0 ? holder : (holder as Record<string, unknown>)[key];
        const last = path.at(-1) ?? 'root';
        const spoilt = holder as Record<string, unknown>;
        if (removes && !Array.isArray(spoilt)) delete spoilt[last];
        else spoilt[last] = replacement;
        const given = path.length === 0 ? spoilt['root'] : written;
        for (const fault of faultsOf(given)) {
          refused += 1;
          expect(fault.expected).not.toMatch(/Invalid|Expected|received|expected|undefined|something else|^$/);
          // The place is there, or is what is missing of one that is.
          const near = fault.path
            .slice(0, -1)
            .reduce<unknown>((value, key) => (value as Record<string, unknown> | undefined)?.[key], given);
          expect({ fault, there: fault.path.length === 0 || (typeof near === 'object' && near !== null) }).toEqual({ fault, there: true });
        }
      }),
      { numRuns: RUNS },
    );
    expect(refused).toBeGreaterThan(RUNS / 5);
  });
});
