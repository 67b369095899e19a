import type { AnyDefinition, Compiled, Signal } from '@eager-sieve/core';
import { type Core } from '../demo/catalogue-from';
import { say } from '../say';
import { median } from './figures';

const FEW = 10;
const MANY = [1_000, 4_000] as const;
const PASSES = 4_000;
const ROUNDS = 7;
const START = Date.UTC(2026, 0, 1);
const HOUR = 3_600_000;
const ORDERED = 1;
const FIRST_TAG = 100;

const definition = (id: number, kind: string, key: string, body: object): AnyDefinition =>
  ({ id, kind, key, name: key, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;

/** So many rules, of which the first five wait for an order and each of the others for a tag of its own, which nobody is given. */
function workspace({ builtInSignalTypes, Catalogue, Compiled }: Core, rules: number): Compiled {
  const order = builtInSignalTypes.find((type) => type.key === 'order.placed');
  if (!order) throw new Error('There is no type for orders.');
  const types = [definition(ORDERED, 'signalType', order.key, order.body)];
  const family = definition(2, 'family', 'seen', { prefix: 'seen', purpose: '', many: true });
  const tags = Array.from({ length: rules + 1 }, (_, index) =>
    definition(FIRST_TAG + index, 'tag', `seen.${index}`, { family: family.id }),
  );
  const all = Array.from({ length: rules }, (_, index) =>
    definition(FIRST_TAG + rules + 1 + index, 'rule', `rule-${index}`, {
      of: 'contact',
      when: {
        kind: 'becomes',
        condition:
          index < 5
            ? { kind: 'signal', type: ORDERED, count: { op: '>=', value: index + 1 }, within: { last: 7, unit: 'days' } }
            : { kind: 'tag', tag: FIRST_TAG + index, op: 'has' },
      },
      then: [{ do: 'add tag', tag: FIRST_TAG + rules }],
      howOften: {},
      beginsWith: 'from now on',
      maxAgeDays: 7,
      position: 100,
      on: true,
    }),
  );
  const rates = { name: 'Bench', timeZone: 'Europe/Stockholm', currency: 'SEK', ratesMillionths: new Map<string, number>() };
  return new Compiled(new Catalogue(rates, [...types, family, ...tags, ...all]));
}

/** Orders of one contact, one every few hours, a fresh contact every fifty. @returns microseconds a pass */
function microseconds({ pass, SubjectState }: Core, compiled: Compiled): number {
  let state = new SubjectState({ id: 1, isNew: false, lastNow: START, dueAt: undefined });
  const begun = process.hrtime.bigint();
  for (let index = 0; index < PASSES; index += 1) {
    if (index % 50 === 0) state = new SubjectState({ id: 1, isNew: false, lastNow: START, dueAt: undefined });
    const time = START + (index % 50) * 5 * HOUR;
    const signal: Signal = { id: index, typeId: ORDERED, time, source: 'bench', senderId: String(index), details: {}, historic: false };
    pass(compiled, state, { kind: 'signal', signal, data: {} }, time);
  }
  return Number(process.hrtime.bigint() - begun) / 1_000 / PASSES;
}

/** The same traffic under few rules and under many: what nothing touches must cost nothing. */
export async function manyRules(): Promise<void> {
  const core = await import('@eager-sieve/core');
  const sizes = [FEW, ...MANY];
  const workspaces = sizes.map((rules) => workspace(core, rules));
  const taken = sizes.map((): number[] => []);
  workspaces.forEach((compiled) => microseconds(core, compiled));
  for (let round = 0; round < ROUNDS; round += 1) workspaces.forEach((compiled, index) => taken[index]?.push(microseconds(core, compiled)));
  const medians = taken.map(median);
  sizes.forEach((rules, index) =>
    say(
      `${rules} rules: ${(medians[index] ?? 0).toFixed(1)} µs a pass, ${((medians[index] ?? 0) / (medians[0] ?? 1)).toFixed(2)} times as long as under ${FEW}`,
    ),
  );
}
