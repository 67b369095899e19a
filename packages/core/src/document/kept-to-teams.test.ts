import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  definitionKinds,
  hiddenFrom,
  referencesIn,
  tellingOfTeams,
  type AnyDefinition,
  type AudienceBody,
  type Condition,
} from '../index.ts';
import { ruleOf } from '../testing/engine.ts';
import { conditions, definition, DEFINITIONS, WORKSPACE } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const inside = (audience: number): Condition => ({ kind: 'audience', audience, op: 'in' });
const audience = (id: number, body: Partial<AudienceBody>): AnyDefinition =>
  definition(id, 'audience', `a${id}`, `Audience ${id}`, { kind: 'live', of: 'contact', condition: inside(91), ...body } as AudienceBody);
const list = (id: number, team?: string): AnyDefinition =>
  definition(id, 'audience', `a${id}`, `Audience ${id}`, { kind: 'fixed', of: 'contact', ...(team === undefined ? {} : { team }) });
const catalogueOf = (...more: readonly AnyDefinition[]): Catalogue => new Catalogue(WORKSPACE, [...DEFINITIONS, ...more]);
const everything = (catalogue: Catalogue): readonly AnyDefinition[] =>
  definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]);

describe('what is kept to a team', () => {
  const north = list(200, 'North');
  const reading = audience(201, { condition: inside(200) });
  const further = audience(202, { condition: { match: 'none', of: [inside(201)] } });
  const rule = ruleOf(203, { when: { kind: 'becomes', condition: inside(202) }, then: [{ do: 'add tag', tag: 30 }] });
  const filling = ruleOf(204, { when: { kind: 'becomes', condition: inside(91) }, then: [{ do: 'put on list', audience: 200 }] });
  const open = list(205);

  it('is hidden from others with all that speaks of it, through others too', () => {
    const catalogue = catalogueOf(north, reading, further, rule, filling, open);
    expect([...hiddenFrom(catalogue, 'South')].sort()).toEqual([200, 201, 202, 203, 204]);
    expect(hiddenFrom(catalogue, null)).toEqual(hiddenFrom(catalogue, 'South'));
    expect([...hiddenFrom(catalogue, 'North')]).toEqual([]);
  });

  it('leaves a catalogue in which nothing is missing, and that says of what is left out that it is another team’s', () => {
    const catalogue = catalogueOf(north, reading, further, rule, filling, open);
    const seen = catalogue.without(hiddenFrom(catalogue, null));
    expect([200, 201, 202, 203, 204, 205].map((id) => seen.any(id)?.id)).toEqual([...Array(5).fill(undefined), 205]);
    expect([seen.absence(203), seen.absence(999), catalogue.absence(203)]).toEqual([
      'kept to another team',
      'that is gone',
      'that is gone',
    ]);
    expect(seen.withAlso(list(206)).absence(200)).toBe('kept to another team');
  });

  it('leaves nothing that names what is not there, whatever audiences read of each other', () => {
    let hiding = 0;
    const teams = fc.option(fc.constantFrom('North', 'South'), { nil: undefined });
    fc.assert(
      fc.property(
        fc.array(fc.record({ team: teams, reads: fc.nat(9), condition: conditions }), { minLength: 1, maxLength: 8 }),
        fc.constantFrom('North', 'South', null),
        (made, team) => {
          const own = made.map(({ team: of, reads, condition }, index) =>
            audience(200 + index, {
              condition: { match: 'any', of: [condition, ...(reads < index ? [inside(200 + reads)] : [])] },
              ...(of === undefined ? {} : { team: of }),
            }),
          );
          const catalogue = catalogueOf(...own);
          const hidden = hiddenFrom(catalogue, team);
          const seen = catalogue.without(hidden);
          for (const each of everything(seen)) for (const id of referencesIn(each)) expect(hidden.has(id)).toBe(false);
          for (const each of seen.every('audience')) expect([undefined, team]).toContain(each.body.team);
          const broken = new Set(new Compiled(catalogue).broken.map(({ id }) => id));
          expect(new Compiled(seen).broken.filter(({ id }) => !broken.has(id))).toEqual([]);
          if (hidden.size > 0 && seen.every('audience').some(({ id }) => id >= 200)) hiding += 1;
        },
      ),
      { numRuns: RUNS },
    );
    expect(hiding).toBeGreaterThan(RUNS / 5);
  });

  it('is told of by a stage or a scorecard that asks for it, since these stand with every contact', () => {
    const stage = definition(210, 'stage', 'ready', 'Ready', { position: 9, needs: inside(201) });
    const telling = tellingOfTeams(catalogueOf(north, reading, stage, open));
    expect(telling.map(({ definition: each, audience: about }) => [each.id, about.id])).toEqual([[210, 200]]);
    expect(tellingOfTeams(catalogueOf(list(200), reading, stage, open))).toEqual([]);
  });
});
