import { actionWords, type Condition, type RuleAction, type RuleBody } from '../index.ts';
import { catalogue, COMPANY_NUMBER, typeId } from '../testing/definitions.ts';
import { oftenWords, ruleSentence } from './words.ts';

const rule: RuleBody = {
  when: { kind: 'signal', type: typeId('form.answered'), where: [{ path: 'form', op: 'is', value: 'ask' }] },
  if: { match: 'none', of: [{ kind: 'tag', tag: 30, op: 'has' }] },
  then: [
    { do: 'add tag', tag: 31 },
    { do: 'set field', field: 16, value: 'a' },
    { do: 'clear field', field: 11 },
  ],
  of: 'contact',
  howOften: { limit: 1 },
  beginsWith: 'everyone',
  maxAgeDays: 7,
  position: 1,
  on: true,
};

describe('the sentence of a rule', () => {
  it('says all of it, an option by its name', () => {
    expect(ruleSentence(rule, catalogue)).toBe(
      'When somebody answers Ask and they do not have the tag fam.one, add the tag fam.two, set the one choice field to Apple green and clear the number field. Once per contact.',
    );
  });

  it('speaks of a company, and of what its contacts did', () => {
    const size = { kind: 'field', of: 'company', field: COMPANY_NUMBER, op: '>=', value: 50 } as const;
    const ordered = { kind: 'signal', type: typeId('order.placed'), within: { last: 30, unit: 'days' } } as const;
    const words = (condition: Condition): string =>
      ruleSentence(
        { ...rule, of: 'company', when: { kind: 'becomes', condition }, if: size, then: [{ do: 'notify', text: 'Big' }] },
        catalogue,
      );
    expect(words(size)).toBe(
      "As soon as a company's number is at least 50 and its number is at least 50, notify everyone here: “Big”. Once per company.",
    );
    expect(words({ match: 'all', of: [ordered, size] })).toMatch(
      /^As soon as a company's contacts have ordered in the last 30 days and its number is at least 50 and/,
    );
  });

  it('says when a sweep runs, and over whom', () => {
    const words = (when: RuleBody['when']): string => ruleSentence({ ...rule, when, howOften: {} }, catalogue);
    expect(words({ kind: 'sweep' })).toMatch(
      /^Whenever it is run, where they do not have the tag fam\.one, add the tag fam\.two, .* Every time\.$/,
    );
    expect(words({ kind: 'sweep', times: { every: 'week', weekday: 1, hour: 7 } })).toMatch(/^Every Monday at 07:00, where they do not/);
    const { if: _if, ...all } = rule;
    expect(ruleSentence({ ...all, when: { kind: 'sweep' } }, catalogue)).toMatch(/^Whenever it is run, for everyone, add the tag/);
  });

  it('speaks of conditions that become true, and of dates', () => {
    const { if: _if, ...bare } = rule;
    const becomes: RuleBody['when'] = { kind: 'becomes', condition: { kind: 'band', scorecard: 40, op: 'is', value: 'top' } };
    expect(ruleSentence({ ...bare, when: becomes, howOften: {} }, catalogue)).toContain('As soon as their Liking is top, add the tag');
    const did = (more: object): string =>
      ruleSentence({ ...bare, when: { kind: 'becomes', condition: { kind: 'signal', type: typeId('order.placed'), ...more } } }, catalogue);
    expect(did({})).toContain('As soon as they have ordered, add the tag');
    expect(did({ sum: { path: 'amount', op: '>', value: 200 } })).toContain('As soon as they have spent more than 200 SEK, add');
    expect(did({ type: 'from them', count: { op: '=', value: 0 }, within: { last: 30, unit: 'days' } })).toContain(
      'As soon as they have done nothing in the last 30 days, add',
    );
    const not = { match: 'none' as const, of: [{ kind: 'field', of: 'contact', field: 15, op: 'is yes' } as const] };
    expect(ruleSentence({ ...bare, if: not, howOften: {} }, catalogue)).toContain('it is not so that their the yes/no field is yes');
    const anybody: RuleBody['when'] = { kind: 'becomes', condition: { match: 'all', of: [] } };
    expect(ruleSentence({ ...bare, when: anybody }, catalogue)).toContain('As soon as a contact is there, add the tag');
    const date = (more: object): string =>
      ruleSentence({ ...bare, when: { kind: 'date', days: 0, yearly: false, hour: 9, ...more } as RuleBody['when'] }, catalogue);
    expect(date({ field: 13 })).toContain('On the date field, at 09:00, add the tag');
    expect(date({ field: 13, days: -3, yearly: true })).toContain('3 days before every anniversary of the date field, at 09:00');
    expect(date({ tag: 33, days: 1, hour: 14 })).toContain('A day after the date of tag fam.renews, at 14:00');
  });

  const said: readonly (readonly [RuleAction, string])[] = [
    [{ do: 'add tag', tag: 32, value: { detail: 'hours' } }, "add the tag fam.hours valued the signal's hours"],
    [{ do: 'remove tag', tag: 30, only: 'this rule' }, 'remove the tag fam.one where this rule gave it'],
    [{ do: 'increase field', field: 11, by: 2 }, 'increase the number field by 2'],
    [{ do: 'put on list', audience: 41 }, 'put on the list Some people'],
    [{ do: 'take off list', audience: 41 }, 'take off the list Some people'],
    [{ do: 'give points', scorecard: 40, points: 5, keeps: { halveEvery: 7 } }, 'give 5 points of Liking, halved every 7 days at midnight'],
    [{ do: 'set stage', stage: 36 }, 'set the stage to suited'],
    [{ do: 'set stage', stage: 35, backward: true }, 'set the stage to heard of us, also backward'],
    [{ do: 'set company field', field: 22, value: 'b' }, "set the company's one choice to blue, dark"],
    [{ do: 'assign owner', owner: 'wren@test.example' }, 'assign owner wren@test.example'],
    [{ do: 'assign owner', owner: 'wren@test.example', replace: true }, 'assign owner wren@test.example, also where there is one'],
    [{ do: 'make task', title: 'Call', dueDays: 0 }, 'make the task “Call”, due today'],
    [{ do: 'make task', title: 'Call', dueDays: 1, for: 'wren@test.example' }, 'make the task “Call”, due in a day, for wren@test.example'],
    [{ do: 'notify', text: 'Look' }, 'notify whoever minds the contact: “Look”'],
  ];
  it.each(said)('says %j', (action, words) => {
    expect(actionWords(action, catalogue)).toBe(words);
  });

  it.each([
    [{}, 'every time'],
    [{ limit: 1 }, 'once per contact'],
    [{ limit: 3 }, 'at most 3 times per contact'],
    [{ pauseDays: 1 }, 'not again within a day'],
    [{ limit: 2, pauseDays: 30 }, 'at most 2 times per contact, not again within 30 days'],
  ])('says how often for %j', (howOften, words) => {
    expect(oftenWords(howOften)).toBe(words);
  });
});
