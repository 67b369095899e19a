import { fillable } from './fillable.ts';
import { type Condition } from '../conditions/schema.ts';

describe('what can be filled in for a condition', () => {
  const field = (id: number, op: string): Condition => ({ kind: 'field', of: 'contact', field: id, op }) as Condition;

  it('is each fact and tag that it asks for, once, and says whether there is more to it', () => {
    const tag: Condition = { kind: 'tag', tag: 30, op: 'has' };
    const any: Condition = { match: 'any', of: [field(2, 'is filled'), tag] };
    expect(fillable({ match: 'all', of: [field(1, 'is filled'), any, field(1, 'is')] })).toEqual({
      fields: [1, 2],
      tags: [30],
      others: false,
    });
  });

  it('is nothing that must be away, or belongs to others', () => {
    const lacks: Condition = { kind: 'tag', tag: 30, op: 'lacks' };
    const company = { ...field(3, 'is filled'), of: 'company' } as Condition;
    expect(fillable({ match: 'all', of: [lacks, company, field(1, 'is empty')] })).toEqual({ fields: [], tags: [], others: true });
    expect(fillable({ match: 'none', of: [field(1, 'is filled')] })).toEqual({ fields: [], tags: [], others: true });
    expect(fillable({ match: 'all', of: [] })).toEqual({ fields: [], tags: [], others: false });
  });
});
