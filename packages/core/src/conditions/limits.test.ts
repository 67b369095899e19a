import { good, holds, Moment, orThrow, parseCondition, prepare, within, bad, type Condition, type WrittenCondition } from '../index.ts';
import { catalogue, NOBODY, NOW, stateOf, ZONE } from '../testing/world.ts';

const leaf = { kind: 'tag', tag: 30, op: 'lacks' } as Condition;
const nested = (groups: number): Condition =>
  Array.from({ length: groups }).reduce<Condition>((inner) => ({ match: 'all', of: [inner] }), leaf);

describe('groups one inside another', () => {
  it('are allowed up to eight, and the ninth is refused, for contacts and for companies alike', () => {
    for (let groups = 1; groups <= 8; groups += 1)
      expect(holds(orThrow(prepare(nested(groups), catalogue)), stateOf(NOBODY), new Moment(NOW, ZONE))).toBe(true);
    expect(prepare(nested(9), catalogue)).toMatchObject({
      ok: false,
      faults: [{ path: Array.from({ length: 8 }).flatMap(() => ['of', 0]), code: 'condition.depth' }],
    });
    const contacts = (groups: number): Condition => ({ kind: 'contacts', condition: nested(groups) }) as Condition;
    expect(prepare(contacts(8), catalogue, 'company').ok).toBe(true);
    expect(prepare(contacts(9), catalogue, 'company').ok).toBe(false);
  });
});

describe('owners', () => {
  const people = new Set(['wren@fernhollow.example']);
  const asked = (condition: object) => parseCondition(condition as WrittenCondition, catalogue.withPeople(people));

  it('that nobody signs in as are a fault, wherever a condition names them', () => {
    const owner = (value: string | string[]) => ({ kind: 'owner', op: Array.isArray(value) ? 'is one of' : 'is', value });
    expect(asked(owner(' Wren@Fernhollow.example')).ok).toBe(true);
    expect(asked(owner(['wren@fernhollow.example', 'nobody@fernhollow.example']))).toMatchObject({
      ok: false,
      faults: [{ path: ['value'], code: 'owner.unknown', expected: expect.stringContaining('nobody@fernhollow.example') }],
    });
    expect(asked({ kind: 'change', what: 'owner', to: ['nobody@fernhollow.example'] })).toMatchObject({
      ok: false,
      faults: [{ path: ['to', 0], code: 'owner.unknown' }],
    });
    expect(asked({ kind: 'owner', op: 'is empty' }).ok).toBe(true);
  });

  it('are not looked at where it is not known who signs in', () => {
    expect(parseCondition({ kind: 'owner', op: 'is', value: 'nobody@fernhollow.example' }, catalogue).ok).toBe(true);
  });
});

describe('faults inside of something', () => {
  it('are led to from outside', () => {
    expect(within(['condition'], bad({ path: ['of', 1], code: 'x', expected: 'y' }))).toEqual({
      ok: false,
      faults: [{ path: ['condition', 'of', 1], code: 'x', expected: 'y' }],
    });
    expect(within(['condition'], good(3))).toEqual({ ok: true, value: 3 });
  });
});
