import fc from 'fast-check';
import { MadeUpWorld } from '../engine/made-up-world.ts';
import { waysTo } from '../engine/why-not.ts';
import { builtInFields, PART } from '../contacts/fields.ts';
import { effectWords } from '../ledger/words.ts';
import { Moment } from '../time/moment.ts';
import { COMPANY_NUMBER, definition, NOW, ZONE } from '../testing/definitions.ts';
import { compiledWith, ruleOf } from '../testing/engine.ts';
import { actionWords, kindOfAction } from './action-kinds.ts';
import { type RuleAction } from './definition.ts';

const PART_FIELD = definition(190, 'field', PART, 'part in the purchase', builtInFields.find(({ key }) => key === PART)?.body ?? {});
const LIST = definition(191, 'audience', 'list', 'A list', { kind: 'fixed', of: 'contact' });
const FIRMS = definition(192, 'audience', 'firm-list', 'Firms to visit', { kind: 'fixed', of: 'company' });
const big = { kind: 'field', of: 'company', field: COMPANY_NUMBER, op: '>=', value: 50 } as const;
const firmRule = (action: RuleAction) => ruleOf(193, { of: 'company', when: { kind: 'becomes', condition: big }, then: [action] });
const PARTS = ['decider', 'buyer', 'user'] as const;

const actions: readonly RuleAction[] = [
  { do: 'add tag', tag: 30 },
  { do: 'add tag', tag: 34, value: 'inactive' },
  { do: 'remove tag', tag: 31 },
  { do: 'set field', field: 11, value: 7 },
  { do: 'set stage', stage: 36 },
  { do: 'assign owner', owner: 'sol@test.example' },
  { do: 'put on list', audience: 191 },
  { do: 'take off list', audience: 191 },
];

describe('what a rule for companies does to contacts', () => {
  it('is done to those who have one of the parts it names, as if by hand, and to nobody else', () => {
    const part = fc.option(fc.constantFrom(...PARTS), { nil: undefined });
    fc.assert(
      fc.property(
        fc.constantFrom(...actions),
        fc.option(fc.uniqueArray(fc.constantFrom<string>(...PARTS), { minLength: 1 }), { nil: undefined }),
        fc.array(fc.record({ part, tagged: fc.boolean(), listed: fc.boolean() }), { minLength: 1, maxLength: 4 }),
        (action, parts, people) => {
          const worldOf = (named: readonly string[] | undefined) => {
            const compiled = compiledWith(
              PART_FIELD,
              LIST,
              FIRMS,
              firmRule({ ...action, ...(named ? { parts: named } : {}) } as RuleAction),
            );
            const world = new MadeUpWorld(compiled, NOW, { company: true, contacts: people.length });
            for (const [index, contact] of world.contacts.entries()) {
              const made = people[index];
              if (made?.part) contact.put('facts', 190, made.part);
              if (made?.tagged) contact.put('tags', 31, { since: NOW - 5, reasons: [{ kind: 'hand', ref: 'x' }] });
              if (made?.listed) contact.join(191, NOW - 5);
            }
            world.settle();
            return world;
          };
          const shown = ({ contacts }: MadeUpWorld) =>
            contacts.map(({ tags, facts, stage, owner, memberships }) => ({
              tags: [...tags],
              facts: [...facts],
              stage,
              owner,
              on: [...memberships],
            }));
          const grow = (world: MadeUpWorld) =>
            world.company && world.change(world.company, [{ kind: 'field', field: COMPANY_NUMBER, value: { fact: 60_000_000 } }]);
          const [done, all, before] = [worldOf(parts), worldOf(undefined), worldOf(undefined)];
          grow(done);
          grow(all);
          const [whole, none] = [shown(all), shown(before)];
          const meant = people.map((each) => parts === undefined || (each.part !== undefined && parts.includes(each.part)));
          expect(shown(done)).toEqual(meant.map((is, index) => (is ? whole[index] : none[index])));
        },
      ),
    );
  });

  it('is told in words, in the rule, in the ledger and for whoever does not have it', () => {
    const action: RuleAction = { do: 'add tag', tag: 30, parts: ['decider', 'buyer'] };
    const compiled = compiledWith(PART_FIELD, LIST, FIRMS, firmRule(action));
    const { catalogue } = compiled;
    expect(actionWords(action, catalogue, 'company')).toBe('add the tag fam.one to its contacts whose part is decider or buyer');
    expect(actions.slice(2).map((each) => actionWords(each, catalogue, 'company'))).toEqual([
      'remove the tag fam.two from its contacts',
      'set the number field of its contacts to 7',
      'set the stage of its contacts to suited',
      'assign owner sol@test.example to its contacts',
      'put its contacts on the list A list',
      'take its contacts off the list A list',
    ]);
    const world = new MadeUpWorld(compiled, NOW, { company: true, contacts: 1 });
    world.settle();
    const [contact] = world.contacts;
    const why = () => contact && waysTo(compiled, contact, new Moment(NOW, ZONE), { of: 'tag', id: 30 })[0];
    expect(why()).toMatchObject({ because: 'Not so: they are among its contacts whose part is decider or buyer.' });
    contact?.put('facts', 190, 'buyer');
    expect(why()).toMatchObject({ because: 'It does it when it runs for their company.', lines: [{}, { holds: true }, { holds: true }] });
    const effects = world.company
      ? world.change(world.company, [{ kind: 'field', field: COMPANY_NUMBER, value: { fact: 60_000_000 } }])
      : [];
    const asked = effects.find(({ kind }) => kind === 'asked');
    expect(asked && effectWords(asked as never, catalogue)).toBe('Its contacts whose part is decider or buyer get the tag fam.one');
    expect(contact?.tags.has(30)).toBe(true);
  });

  it('has to fit', () => {
    const { catalogue } = compiledWith(PART_FIELD, LIST, FIRMS);
    const misfit = (action: RuleAction, of: 'contact' | 'company' = 'company') => kindOfAction(action).misfit(action, of, catalogue);
    for (const action of actions) {
      expect(misfit(action)).toBeUndefined();
      expect(misfit({ ...action, parts: ['decider'] } as RuleAction)).toBeUndefined();
      expect(misfit({ ...action, parts: ['nobody'] } as RuleAction)).toMatchObject({ property: 'parts' });
      expect(misfit({ ...action, parts: ['decider'] } as RuleAction, 'contact')).toMatchObject({ property: 'parts' });
    }
    expect(misfit({ do: 'put on list', audience: 192 })).toBeUndefined();
    expect(misfit({ do: 'put on list', audience: 192, parts: ['buyer'] })).toMatchObject({ property: 'parts' });
    expect(misfit({ do: 'set stage', stage: 36, ask: 'Ask' })).toMatchObject({ property: 'ask' });
    expect(misfit({ do: 'set field', field: COMPANY_NUMBER, value: 1 })).toMatchObject({ property: 'field' });
  });
});
