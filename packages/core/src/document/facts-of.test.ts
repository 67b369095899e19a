import fc from 'fast-check';
import { said } from '../conditions/describe/said/sentences.ts';
import { differenceOf, normalise, type Bodies, type Condition, type Group } from '../index.ts';
import { catalogue, typeId } from '../testing/definitions.ts';
import { conditions } from '../testing/world.ts';

const audience = (condition: Group): { name: string; body: Bodies['audience'] } => ({
  name: 'Some',
  body: { kind: 'live', of: 'contact', condition },
});
const all = (...of: Group['of']): Group => ({ match: 'all', of });
const tagged = { kind: 'tag', tag: 30, op: 'has' } as unknown as Group;
const known = { kind: 'owner', op: 'is filled' } as unknown as Group;

describe('what changed from one version to the next', () => {
  it('is said line by line', () => {
    expect(differenceOf('audience', audience(all(tagged)), audience(all(tagged, known)), catalogue)).toEqual({
      added: ['all of these hold', 'has an owner'],
      gone: [],
    });
    expect(differenceOf('audience', audience(all(tagged)), { ...audience(all(tagged)), name: 'Others' }, catalogue)).toEqual({
      added: ['called “Others”'],
      gone: ['called “Some”'],
    });
  });

  it('is nothing between a version and itself, and something wherever the lines say something else', () => {
    fc.assert(
      fc.property(conditions, conditions, (...both) => {
        const [one, other] = both.map((each) => normalise(each, catalogue)) as [Condition, Condition];
        const [a, b] = [audience(all(one as Group)), audience(all(other as Group))];
        expect(differenceOf('audience', a, a, catalogue)).toEqual({ added: [], gone: [] });
        const { added, gone } = differenceOf('audience', a, b, catalogue);
        expect(added.length + gone.length > 0).toBe(said(one, catalogue, 'contact') !== said(other, catalogue, 'contact'));
      }),
      { numRuns: 60 },
    );
  });

  it('of a rule names what it does, and whether it is on', () => {
    const rule = {
      of: 'contact',
      when: { kind: 'signal', type: typeId('order.placed') },
      then: [{ do: 'add tag', tag: 30 }],
      howOften: {},
      beginsWith: 'from now on',
      maxAgeDays: 7,
      position: 1,
      on: false,
    } as Bodies['rule'];
    const then = [...rule.then, { do: 'make task', title: 'Call', dueDays: 0 }] as Bodies['rule']['then'];
    expect(differenceOf('rule', { name: 'R', body: rule }, { name: 'R', body: { ...rule, on: true, then } }, catalogue)).toEqual({
      added: ['is on', 'make the task “Call”, due today'],
      gone: ['is off'],
    });
    expect(differenceOf('rule', undefined, { name: 'R', body: rule }, catalogue).added).toContain('When somebody orders');
  });

  it('of a field, a tag, a form and a message names what was put in', () => {
    const field = { of: 'contact', type: 'one choice', options: [{ key: 'a', name: 'Oak' }] } as Bodies['field'];
    const more = { ...field, synonyms: ['tree'], options: [...(field.options ?? []), { key: 'b', name: 'Ash' }] };
    expect(differenceOf('field', { name: 'F', body: field }, { name: 'F', body: more }, catalogue).added).toEqual([
      'also called tree',
      'choice Ash',
    ]);
    const message = { channel: 'email', subject: 'Hello', text: 'Hi', links: [] } as Bodies['message'];
    const linked = { ...message, links: [{ key: 'a', label: 'Yes', tag: 30 }] } as Bodies['message'];
    expect(differenceOf('message', { name: 'M', body: message }, { name: 'M', body: linked }, catalogue).added).toEqual([
      'link “Yes”, gives fam.one',
    ]);
  });
});
