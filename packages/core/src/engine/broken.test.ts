import fc from 'fast-check';
import { Catalogue, Compiled, prepare, type AnyDefinition } from '../index.ts';
import { definition, NOW, typeId, WORKSPACE } from '../testing/definitions.ts';
import { BARE, newcomer, ruleOf, send, told } from '../testing/engine.ts';

const gone = 900;
const audience = (id: number, ...of: readonly number[]): AnyDefinition =>
  definition(id, 'audience', `a${id}`, `Audience ${id}`, {
    kind: 'live',
    of: 'contact',
    condition: {
      match: 'all',
      of: of.map((each) => (each === gone ? { kind: 'tag', tag: gone, op: 'has' } : { kind: 'audience', audience: each, op: 'in' })),
    },
  });
const compiledOf = (...more: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...BARE, ...more], new Map([[gone, { kind: 'tag', name: 'the lost one' }]])));

describe('what is broken', () => {
  it('is all that names what was deleted and all that rests on that, however far away, and nothing else', () => {
    // Of a chain without circles, each audience names some of those before it.
    const chains = fc.array(fc.tuple(fc.boolean(), fc.array(fc.nat(), { maxLength: 3 })), { minLength: 1, maxLength: 8 });
    let stopped = 0;
    fc.assert(
      fc.property(chains, (chain) => {
        const definitions = chain.map(([lost, named], index) =>
          audience(100 + index, ...(index === 0 ? [] : named.map((each) => 100 + (each % index))), ...(lost ? [gone] : [])),
        );
        const reaches = (index: number): ReadonlySet<number> => {
          const [lost, named] = chain[index] ?? [false, []];
          return new Set([...(lost ? [100 + index] : []), ...(index === 0 ? [] : named.flatMap((each) => [...reaches(each % index)]))]);
        };
        const compiled = compiledOf(...definitions);
        chain.forEach((_, index) => {
          const id = 100 + index;
          const roots = [...reaches(index)].sort((a, b) => a - b);
          expect(compiled.broken.find((each) => each.id === id)?.roots ?? []).toEqual(roots);
          expect(compiled.audienceNode(id) === undefined).toBe(roots.length > 0);
          stopped += roots.length > 0 ? 1 : 0;
        });
      }),
      { numRuns: 200 },
    );
    expect(stopped).toBeGreaterThan(100);
  });

  it('cannot be asked: a condition that names it has a fault that says why and names the root', () => {
    const compiled = compiledOf(audience(100, gone), audience(101, 100), audience(102));
    const asked = (id: number) => prepare({ kind: 'audience', audience: id, op: 'out' }, compiled.catalogue, 'contact', compiled.whyBroken);
    expect(asked(102).ok).toBe(true);
    expect(asked(101)).toMatchObject({
      ok: false,
      faults: [
        {
          path: ['audience'],
          code: 'audience.broken',
          expected:
            'an audience that works: “Audience 101” is broken, since it rests on the audience “Audience 100”, which is broken: that needs something in place of the tag “the lost one”, which was deleted',
        },
      ],
    });
  });

  it('sets nothing off, keeps its members, and lets everything else go on', () => {
    const onOrder = { kind: 'signal' as const, type: typeId('order.placed'), where: [] };
    const compiled = compiledOf(
      audience(100, gone),
      ruleOf(110, { when: onOrder, if: { kind: 'audience', audience: 100, op: 'out' }, then: [{ do: 'add tag', tag: 30 }] }),
      ruleOf(111, { when: onOrder, then: [{ do: 'add tag', tag: 31 }] }),
      definition(112, 'map', 'm', 'Map', {
        on: true,
        path: 'order',
        reason: 'order',
        adds: [typeId('order.placed')],
        takes: [],
        rows: [{ value: '1', add: [gone], remove: [] }],
      }),
    );
    const state = newcomer();
    state.memberships.set(100, { since: NOW - 1 });
    expect(told(send(compiled, state, 'order.placed', { order: '1' }))).toEqual(['contact added', 'firing fired', 'tag added']);
    expect([...state.tags.keys()]).toEqual([31]);
    expect(state.memberships.get(100)).toEqual({ since: NOW - 1 });
  });

  it('keeps the answers and the consent of a broken form, and does nothing else with them', () => {
    const form = definition(120, 'form', 'f', 'Form', {
      intro: '',
      thanks: '',
      published: true,
      questions: [
        {
          key: 'q',
          label: 'Q',
          type: 'one choice',
          required: false,
          options: [
            { key: 'x', name: 'X', add: [gone] },
            { key: 'y', name: 'Y', add: [30] },
          ],
        },
        { key: 'ok', label: 'OK', type: 'consent', required: false },
      ],
    });
    const state = newcomer();
    send(compiledOf(form), state, 'form.answered', { form: 'f', version: 1, answers: { q: 'y', ok: true } });
    expect([...state.tags.keys()]).toEqual([]);
    expect(state.consent.get('email')?.state).toBe('given');
    expect(state.signals.get(typeId('form.answered'))).toHaveLength(1);
  });
});
