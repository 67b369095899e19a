import { compileRule, pass, passBack, ruleSentence, SubjectState, type Definition, type Effect, type RuleBody } from '../index.ts';
import { catalogue, COMPANY_NUMBER, DAY, definition, NOW, typeId } from '../testing/definitions.ts';
import { clockTo, compiledWith, edit, newcomer, ruleOf, told } from '../testing/engine.ts';
import { treeOf } from '../testing/ledger.ts';

const SIZE = COMPANY_NUMBER;
const GRADE = 22;
const RENEWS = 23;
const LIST = definition(90, 'audience', 'list', 'A list', { kind: 'fixed', of: 'contact' });
const VISITS = definition(92, 'audience', 'visits', 'Visits', { kind: 'fixed', of: 'company' });
const big = { kind: 'field', of: 'company', field: SIZE, op: '>=', value: 50 } as const;
const when: RuleBody['when'] = { kind: 'becomes', condition: big };
const then: RuleBody['then'] = [
  { do: 'set company field', field: GRADE, value: 'a' },
  { do: 'make task', title: 'Visit them', dueDays: 2 },
  { do: 'notify', text: 'A big one' },
  { do: 'put on list', audience: 90 },
];
const ruleFor = (body: Partial<RuleBody> = {}, id = 101) => ruleOf(id, { of: 'company', when, then, ...body });

const newCompany = (id = 9): SubjectState => new SubjectState({ id, kind: 'company', isNew: true, lastNow: 0, dueAt: undefined });
const sized = (seats: number) => [{ kind: 'field', field: SIZE, value: { fact: seats * 1_000_000 } }] as const;
const fired = (effects: readonly Effect[]): readonly (number | undefined)[] =>
  effects.filter((effect) => effect.kind === 'firing' && effect.verb === 'fired').map((effect) => effect.definitionId);

describe('a rule for companies', () => {
  const compiled = compiledWith(LIST, ruleFor());

  it('sets a field of the company, makes a task and a notice, and asks for its contacts when the condition becomes true', () => {
    const company = newCompany();
    expect(fired(edit(compiled, company, sized(10)))).toEqual([]);
    const effects = edit(compiled, company, sized(60), NOW + 1);
    expect(told(effects)).toEqual(['field set', 'firing fired', 'field set', 'task made', 'notice made', 'asked sent']);
    expect(company.facts.get(GRADE)).toBe('a');
    expect(effects.at(-1)?.request).toEqual({ to: 'contacts', id: 9, change: { kind: 'list', audience: 90, on: true }, hop: 1 });
    expect(effects.slice(2).every((effect) => effect.parent === effects[1] && effect.rule?.id === 101)).toBe(true);
  });

  it('fires on becoming true alone, and for a company that comes so', () => {
    const company = newCompany();
    expect(fired(edit(compiled, company, sized(60)))).toEqual([101]);
    expect(fired(edit(compiled, company, sized(70), NOW + 1))).toEqual([]);
    expect(fired(edit(compiled, company, sized(40), NOW + 2))).toEqual([]);
    expect(fired(edit(compiled, company, sized(50), NOW + 3))).toEqual([101]);
  });

  it('has nothing to do with contacts', () => {
    const contact = newcomer();
    contact.companyFacts = new Map([[SIZE, 60_000_000]]);
    expect(fired(edit(compiled, contact, [{ kind: 'field', field: 11, value: { fact: 1 } }]))).toEqual([]);
    expect(contact.memberships.has(101)).toBe(false);
  });

  it('begins with every company that there is, where it says so, and once', () => {
    const company = newCompany();
    edit(compiledWith(LIST), company, sized(60));
    const begun = compiledWith(LIST, { ...ruleFor({ beginsWith: 'everyone' }), epoch: 1, onEpoch: 1 } as never);
    const later = Object.assign(begun, { epoch: 1 });
    const build = { kind: 'build', cause: { kind: 'definition', ref: '101/1' } } as const;
    expect(fired(pass(later, company, build, NOW + 1))).toEqual([101]);
    expect(fired(pass(later, company, build, NOW + 2))).toEqual([]);
  });

  it('runs on a date of the company', () => {
    const onDate = compiledWith(
      LIST,
      ruleFor({ when: { kind: 'date', field: RENEWS, days: -2, yearly: false, hour: 9 }, then: [{ do: 'notify', text: 'It renews' }] }),
    );
    const company = newCompany();
    const day = Math.floor(NOW / DAY) + 10;
    edit(onDate, company, [{ kind: 'field', field: RENEWS, value: { fact: day } }]);
    expect(told(clockTo(onDate, company, NOW + 7 * DAY))).toEqual([]);
    expect(told(clockTo(onDate, company, NOW + 9 * DAY))).toEqual(['firing fired', 'notice made']);
  });

  it('is taken back with what it set', () => {
    const company = newCompany();
    const effects = edit(compiled, company, sized(60));
    const [root] = effects.filter((effect) => effect.kind === 'firing') as [Effect];
    const back = passBack(compiled, company, treeOf(effects, root), { kind: 'take back', ref: 'ada' }, NOW + 1);
    expect(back.stays).toEqual([]);
    expect(company.facts.has(GRADE)).toBe(false);
  });

  it('puts the company itself on a list of companies, and takes it off', () => {
    const on = (action: 'put on list' | 'take off list', id: number) =>
      ruleFor(
        { ...(id === 102 ? { when: { kind: 'becomes', condition: { ...big, op: '<' } } } : {}), then: [{ do: action, audience: 92 }] },
        id,
      );
    const both = compiledWith(VISITS, on('put on list', 101), on('take off list', 102));
    const company = newCompany();
    expect(told(edit(both, company, sized(60)))).toEqual(['company added', 'field set', 'firing fired', 'membership joined']);
    expect(company.memberships.has(92)).toBe(true);
    expect(told(edit(both, company, sized(40), NOW + 1))).toEqual(['field set', 'firing fired', 'membership left']);
    expect(company.memberships.has(92)).toBe(false);
    expect(ruleSentence(on('put on list', 101).body as RuleBody, both.catalogue)).toContain(', put it on the list Visits.');
  });

  it('that goes round through other subjects is held back after so many hands, and what is worked out stays right', () => {
    const audience = definition(91, 'audience', 'big', 'Big ones', { kind: 'live', of: 'company', condition: big });
    const both = compiledWith(LIST, audience, ruleFor());
    const company = newCompany();
    const effects = pass(both, company, { kind: 'edit', changes: sized(60), cause: { kind: 'effect', ref: '1' }, parent: 1, hop: 17 }, NOW);
    expect(told(effects)).toEqual(expect.arrayContaining(['membership joined', 'firing circling']));
    expect(fired(effects)).toEqual([]);
    expect(company.suspendedRules.has(101)).toBe(true);
    expect(company.memberships.has(101)).toBe(true);
  });

  it('reads as one sentence', () => {
    expect(ruleSentence(ruleFor({ howOften: { limit: 1 } }).body as RuleBody, catalogue)).toBe(
      "As soon as a company's number is at least 50, set one choice to Apple green, make the task “Visit them”, due in 2 days, notify everyone here: “A big one” and put its contacts on the list …. Once per company.",
    );
  });
});

describe('a rule for companies that cannot work is refused with where and why', () => {
  const faults = (body: Partial<RuleBody>): unknown => {
    const checked = compileRule(ruleFor({ then: [{ do: 'notify', text: 'x' }], ...body }) as unknown as Definition<'rule'>, catalogue);
    return checked.ok ? [] : checked.faults.map(({ path, code }) => `${path.join('.')} ${code}`);
  };
  it.each<[string, Partial<RuleBody>, readonly string[]]>([
    ['a signal', { when: { kind: 'signal', type: typeId('order.placed') } }, ['when.kind rule.subject']],
    ['the date of a tag', { when: { kind: 'date', tag: 33, days: 0, yearly: false, hour: 9 } }, ['when.tag rule.subject']],
    ['a date of contacts', { when: { kind: 'date', field: 13, days: 0, yearly: false, hour: 9 } }, ['when.field date.field']],
    [
      'a condition on tags',
      { when: { kind: 'becomes', condition: { kind: 'tag', tag: 30, op: 'has' } } },
      ['when.condition.kind condition.subject'],
    ],
    ['points', { then: [{ do: 'give points', scorecard: 40, points: 5, keeps: 'forever' }] }, ['then.0.do action.subject']],
    ['a field of contacts', { then: [{ do: 'clear field', field: 11 }] }, ['then.0.field action.misfit']],
    ['a task for a stage', { then: [{ do: 'set stage', stage: 36, ask: 'Ask them' }] }, ['then.0.ask action.misfit']],
  ])('%s', (_what, body, expected) => {
    expect(faults(body)).toEqual(expected);
  });
});

it('a rule for people puts nobody on a list of companies', () => {
  const { catalogue: known } = compiledWith(VISITS);
  const rule = ruleOf(101, { when: { kind: 'signal', type: typeId('order.placed') }, then: [{ do: 'put on list', audience: 92 }] });
  const checked = compileRule(rule as unknown as Definition<'rule'>, known);
  expect(checked.ok ? [] : checked.faults).toMatchObject([{ path: ['then', 0, 'audience'], expected: 'a list of people' }]);
});
