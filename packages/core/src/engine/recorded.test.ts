import { isPersonal, type Change, type Effect, type SubjectState } from '../index.ts';
import { arrive, compiledWith, edit, newcomer, send, signalOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW } from '../testing/world.ts';

const ONE_AT_A_TIME = definition(28, 'family', 'one', 'One', { prefix: 'one', purpose: '', many: false });
const compiled = compiledWith(
  ONE_AT_A_TIME,
  definition(70, 'tag', 'one.first', 'first', { family: 28 }),
  definition(71, 'tag', 'one.second', 'second', { family: 28 }),
  definition(90, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' }),
  definition(91, 'audience', 'live', 'Live', { kind: 'live', of: 'contact', condition: { match: 'any', of: [] } }),
);
const hand = (ref = 'ada') => ({ kind: 'hand', ref }) as const;
const tag = (id: number, ref?: string, value?: number): Change => ({ kind: 'tag', tag: id, add: true, reason: hand(ref), value });
const field = (id: number, fact: string | number | undefined, shown?: string): Change => ({
  kind: 'field',
  field: id,
  value: fact === undefined ? undefined : { fact, ...(shown === undefined ? {} : { shown }) },
});

/** Makes changes one after another, a second apart, and says what each did. */
function after(...changes: readonly Change[]): { readonly state: SubjectState; readonly effects: readonly (readonly Effect[])[] } {
  const state = newcomer();
  edit(compiled, state, []);
  return { state, effects: changes.map((change, index) => edit(compiled, state, [change], NOW + index * 1_000)) };
}
const verbs = (effects: readonly (readonly Effect[])[]): string[][] => effects.map(told);

describe('fields', () => {
  it('are written once: the same again is no change, and another way of writing it is no change of what it means', () => {
    const { state, effects } = after(field(10, 'oak', 'Oak'), field(10, 'oak', 'Oak'), field(10, 'oak', 'OAK'));
    expect(verbs(effects)).toEqual([['field set'], [], ['field set']]);
    expect(state.shown.get(10)).toBe('OAK');
    expect(state.changes.get('field:10')).toEqual([{ at: NOW, from: null, to: 'oak' }]);
  });

  it('remember what they went from and to', () => {
    const { state } = after(field(11, 2_000_000), field(11, 3_000_000), field(11, undefined));
    expect(state.changes.get('field:11')).toEqual([
      { at: NOW, from: null, to: '2000000' },
      { at: NOW + 1_000, from: '2000000', to: '3000000' },
      { at: NOW + 2_000, from: '3000000', to: null },
    ]);
  });

  it('tell their values, which are personal', () => {
    const { effects } = after(field(10, 'oak', 'Oak'));
    expect(effects[0]?.[0]).toMatchObject({ before: null, after: 'Oak' });
    expect(effects[0]?.[0] && isPersonal(effects[0][0])).toBe(true);
  });
});

describe('tags', () => {
  it('stand while one of their reasons does', () => {
    const take = (ref: string): Change => ({ kind: 'tag', tag: 30, add: false, reasons: hand(ref) });
    const { state, effects } = after(tag(30, 'a'), tag(30, 'b'), take('a'), take('nobody'), take('b'));
    expect(verbs(effects)).toEqual([['tag added'], ['tag reason added'], ['tag reason removed'], [], ['tag removed']]);
    expect(state.pastTags.get(30)).toEqual([{ since: NOW, until: NOW + 4_000, value: undefined, went: true }]);
  });

  it('that carry a value keep every value they had, and since when they stand', () => {
    const { state } = after(tag(32, 'a', 1_000_000), tag(32, 'a', 2_000_000), tag(32, 'a', 2_000_000));
    expect(state.tags.get(32)).toMatchObject({ since: NOW, value: 2_000_000 });
    expect(state.pastTags.get(32)).toEqual([{ since: NOW, until: NOW + 1_000, value: 1_000_000, went: false }]);
  });

  it('of a family that has one at a time give way to the newest', () => {
    const { state, effects } = after(tag(70), tag(71));
    expect(verbs(effects)[1]).toEqual(['tag added', 'tag removed']);
    expect([...state.tags.keys()]).toEqual([71]);
  });

  it('go by what their reasons begin with: all that one rule gave', () => {
    const by = (ref: string): Change => ({ kind: 'tag', tag: 30, add: true, reason: { kind: 'rule', ref } });
    const take: Change = { kind: 'tag', tag: 30, add: false, reasons: { kind: 'rule', begins: '10' } };
    const { state } = after(by('10'), by('10/5'), by('101/6'), take);
    expect(state.tags.get(30)?.reasons).toEqual([{ kind: 'rule', ref: '101/6' }]);
  });
});

describe('consent', () => {
  it('is the latest by time, whatever came when', () => {
    const state = newcomer();
    send(compiled, state, 'consent.withdrawn', { channel: 'email' }, NOW);
    arrive(compiled, state, signalOf('consent.given', { channel: 'email' }, NOW - DAY), {}, NOW + 1);
    expect(state.consent.get('email')).toEqual({ state: 'withdrawn', at: NOW });
    send(compiled, state, 'consent.given', { channel: 'email' }, NOW + DAY);
    expect(state.consent.get('email')).toEqual({ state: 'given', at: NOW + DAY });
  });

  it('ends undeliverable by a hard bounce, and not by a soft one, until it is given anew', () => {
    const state = newcomer();
    send(compiled, state, 'consent.given', { channel: 'email' }, NOW);
    send(compiled, state, 'message.bounced', { channel: 'email', hard: false }, NOW + 1);
    expect(state.consent.get('email')?.state).toBe('given');
    send(compiled, state, 'message.bounced', { channel: 'email', hard: true }, NOW + 2);
    expect(state.consent.get('email')?.state).toBe('undeliverable');
    send(compiled, state, 'consent.given', { channel: 'email' }, NOW + 3);
    expect(state.consent.get('email')?.state).toBe('given');
  });

  it('goes by historic signals too, and of each channel by itself', () => {
    const state = newcomer();
    arrive(compiled, state, signalOf('consent.given', { channel: 'text' }, NOW - DAY, { historic: true }), {}, NOW);
    send(compiled, state, 'message.unsubscribed', {}, NOW);
    expect([...state.consent].map(([channel, { state: is }]) => [channel, is])).toEqual([
      ['text', 'given'],
      ['email', 'withdrawn'],
    ]);
  });
});

describe('lists, stages, owners', () => {
  it('a live audience takes nobody by hand', () => {
    const { state, effects } = after({ kind: 'list', audience: 91, on: true }, { kind: 'list', audience: 90, on: true });
    expect(verbs(effects)).toEqual([[], ['membership joined']]);
    expect([...state.memberships.keys()]).toEqual([90]);
  });

  it('a stage that is taken away is remembered, and begins anew when it comes again', () => {
    const stage = (id: number | undefined): Change => ({ kind: 'stage', stage: id, backward: true });
    const { state, effects } = after(stage(36), stage(36), stage(undefined), stage(36));
    expect(verbs(effects)).toEqual([['stage set'], [], ['stage cleared'], ['stage set']]);
    expect(state.stage).toEqual({ id: 36, since: NOW + 3_000 });
    expect(state.changes.get('stage')?.map(({ from, to }) => [from, to])).toEqual([
      [null, '36'],
      ['36', null],
      [null, '36'],
    ]);
  });

  it('a person who sets an owner means it', () => {
    const owner = (email: string | undefined): Change => ({ kind: 'owner', owner: email, replace: true });
    const { state, effects } = after(owner('a@test.example'), owner('b@test.example'), owner(undefined));
    expect(verbs(effects)).toEqual([['owner set'], ['owner set'], ['owner cleared']]);
    expect(state.owner).toBeUndefined();
  });
});

describe('companies', () => {
  it('are touched, the one that is left and the one that is joined', () => {
    const put = (company: number | undefined): Change => ({
      kind: 'company',
      company,
      facts: company === undefined ? undefined : new Map([[20, 'mill']]),
    });
    const { state, effects } = after(put(700), put(700), put(701), put(undefined));
    expect(verbs(effects)).toEqual([['company set'], [], ['company set'], ['company cleared']]);
    expect([...state.companiesTouched]).toEqual([700, 701]);
    expect(state.companyFacts).toBeUndefined();
  });
});

describe('deals', () => {
  const deal = (stage: string, more: object = {}): Change => ({
    kind: 'deal',
    deal: { id: 5, outsideId: 'd5', pipeline: 38, stage, facts: new Map(), ...more },
  });

  it('are also signals of their contact: opened, moved on, won; and no signal where nothing moved', () => {
    const { effects } = after(deal('enquiry', { amount: 12_050 }), deal('enquiry', { name: 'Bowls' }), deal('agreed'));
    expect(effects.map((each) => each[0]?.sends)).toEqual([
      { type: 'deal.opened', data: { deal: 'd5', stage: 'enquiry', amount: '120.50', currency: 'SEK' } },
      undefined,
      { type: 'deal.won', data: { deal: 'd5', from: 'enquiry', stage: 'agreed', amount: '120.50', currency: 'SEK' } },
    ]);
  });

  it('keep what a patch leaves out, know since when their stage is, and can go', () => {
    const { state, effects } = after(
      deal('enquiry', { amount: 100, company: 700, facts: new Map([[25, 2_000_000]]) }),
      deal('agreed', { amount: null }),
      deal('agreed', { facts: new Map([[25, undefined]]) }),
    );
    expect(state.deals.get(5)).toMatchObject({
      stage: 'agreed',
      amount: undefined,
      company: 700,
      opened: NOW,
      moved: NOW + 1_000,
      facts: new Map(),
    });
    expect(verbs(effects)).toEqual([['deal added'], ['deal set'], ['deal set']]);
    expect(told(edit(compiled, state, [{ kind: 'deal gone', deal: 5 }], NOW + 9_000))).toEqual(['deal removed']);
    expect(state.dealDetails.size).toBe(0);
  });
});
