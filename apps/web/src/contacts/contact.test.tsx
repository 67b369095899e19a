import { type AnyDefinition } from '@eager-sieve/core';
import { type LedgerRow, type TimelineEntry, type TimelinePage, type TraceView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { aCount, aLedgerRow } from '../testing/answers';
import { openPage, Refused, SILENT, type Answers, type SentRequest } from '../testing/page';
import { contactView } from '../testing/people';

const AT = '2026-05-01T08:00:00Z';
const effect = (id: number, kind: string, words: string): LedgerRow => ({
  id,
  at: AT,
  contact: 'id-1',
  contactName: 'Anna',
  company: null,
  companyName: null,
  kind,
  verb: 'x',
  words,
  thing: null,
  thingName: null,
  before: null,
  after: null,
  cause: { kind: 'signal', ref: '7', words: '' },
  rule: null,
  ruleVersion: null,
  parent: null,
});
const signal = (id: number, type: string, verb: string, did: readonly LedgerRow[] = []): TimelineEntry => ({
  ...{ key: `signal ${id}`, at: AT, words: verb, contact: null, did: [...did], more: 0 },
  signal: { id, type, typeName: type, verb, time: AT, receivedAt: AT, source: 'shop', senderId: String(id), summary: '', data: {} },
});
const TYPES: TimelinePage['types'] = [
  { key: 'page.visited', verb: 'visited', signals: 41, lately: 3, people: 1, lastAt: AT },
  { key: 'order.placed', verb: 'ordered', signals: 2, lately: 0, people: 1, lastAt: AT },
];
const timeline: TimelinePage = {
  entries: [signal(7, 'order.placed', 'ordered', [effect(1, 'band', 'Crossed into eager')]), signal(6, 'page.visited', 'visited')],
  after: null,
  types: TYPES,
};
const CHANGE: TimelineEntry = {
  ...{ key: 'change 3', at: AT, words: 'by wren@test.example', signal: null, contact: null, more: 12 },
  did: [effect(3, 'field', 'city set to Upper Fern')],
};
const answers: Answers = {
  'GET /api/v1/contacts/:id': contactView({
    tags: [
      { key: 'glaze.ash', name: 'ash', since: AT, value: null, goesAt: null, reasons: [{ kind: 'rule', ref: '1', words: 'rule Ash' }] },
    ],
    scores: [
      {
        key: 'keen',
        name: 'Keenness',
        points: 61,
        band: 'eager',
        bandName: 'eager',
        bandSince: AT,
        exactUntil: null,
        lines: [9, 8, 7, 6, 5, -4].map((points, n) => ({ key: `l${n}`, name: `line ${n}`, points, signals: n, changesAt: null })),
      },
    ],
  }),
  'GET /api/app/contacts/id-1/timeline': timeline,
};
const open = (more: Answers = {}, definitions: readonly AnyDefinition[] = []) =>
  openPage('/people/id-1', { ...answers, ...more }, { more: definitions });

describe('the page of a contact', () => {
  it('lets a tag be put back that was taken off, with the reasons that it had', async () => {
    const off = (id: number) => aLedgerRow({ id, contact: 'id-1', verb: 'removed', thing: 'glaze.ash' });
    let isOff = false;
    const { asked } = open({
      'PUT /api/v1/contacts': () => ((isOff = true), { results: [{ index: 0, status: 'updated', contact: 'id-1' }] }),
      // It was taken off once before: that is not what is undone.
      'GET /api/v1/contacts/id-1/ledger': () => ({
        rows: isOff ? [aLedgerRow({ id: 32, kind: 'field', thing: 'city' }), off(31), off(12)] : [off(12)],
        after: null,
      }),
      'POST /api/v1/ledger/31/take-back': {
        rehearsed: false,
        signals: 0,
        effects: 1,
        subjects: 1,
        changes: { 'tag added': 1 },
        samples: [],
        stays: [],
        stay: 0,
        run: null,
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'take off' }));
    expect(await screen.findByText('glaze.ash is taken off.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
    expect(await screen.findByText('It is as it was before.')).toBeInTheDocument();
    expect(asked('POST /api/v1/ledger/31/take-back')[0]?.query).toEqual({ rehearse: 'false' });
  });

  it('says under each thing that happened what came of it, changes too, and earlier ones as they are asked for', async () => {
    open({
      'GET /api/app/contacts/id-1/timeline': ({ query }: SentRequest) =>
        query['after']
          ? { entries: [signal(5, 'form.answered', 'answered')], after: null, types: null }
          : { ...timeline, entries: [CHANGE, ...timeline.entries], after: 'next' },
    });
    expect(await screen.findByText('→ Crossed into eager')).toBeInTheDocument();
    const change = screen.getByText('By wren@test.example').closest('li');
    expect(change).toHaveTextContent('→ city set to Upper Fern');
    expect(change).toHaveTextContent('and 12 more');
    await userEvent.click(screen.getByRole('button', { name: 'Earlier' }));
    expect(await screen.findByText('Answered')).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Earlier' })).toBeNull();
  });

  it('asks the server for one kind or for what is searched for, and says so where there is nothing like it', async () => {
    const { asked } = open({
      'GET /api/app/contacts/id-1/timeline': ({ query }: SentRequest) =>
        query['type'] === 'page.visited'
          ? { entries: [signal(6, 'page.visited', 'visited')], after: null, types: TYPES }
          : query['search']
            ? { entries: [], after: query['after'] ? null : 'further', types: query['after'] ? null : TYPES }
            : timeline,
    });
    const only = await screen.findByLabelText('What happened: show only');
    await screen.findByText('Ordered');
    expect(
      within(only)
        .getAllByRole('option')
        .map((each) => each.textContent),
    ).toEqual(['everything', 'changes without a signal', 'visited · 41', 'ordered · 2']);
    await userEvent.selectOptions(only, 'visited · 41');
    await waitFor(() => expect(screen.queryByText('Ordered')).not.toBeInTheDocument());
    expect(screen.getByText('Visited')).toBeInTheDocument();
    await userEvent.selectOptions(only, 'changes without a signal');
    await waitFor(() => expect(asked('GET /api/app/contacts/id-1/timeline').at(-1)?.query).toEqual({ show: 'changes', limit: '40' }));
    await userEvent.selectOptions(only, 'everything');
    await userEvent.type(screen.getByLabelText('What happened: search'), 'the moon');
    expect(await screen.findByText('Nothing like it so far. It is looked for further back.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Earlier' }));
    expect(await screen.findByText('Nothing here says that')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
    expect(await screen.findByText('Ordered')).toBeInTheDocument();
    expect(screen.getByLabelText('What happened: search')).toHaveValue('');
  });

  it('shows the strongest lines of a score first, the sum of the rest, and all when asked', async () => {
    open();
    const more = await screen.findByRole('button', { name: '2 more lines' });
    expect(more.parentElement).toHaveTextContent('2 more lines+1');
    expect(screen.getByText(/line 3/)).toHaveTextContent('line 3 · 3 times');
    await userEvent.click(more);
    expect(screen.getByText('−4')).toBeInTheDocument();
  });

  it('tries a signal with nothing kept, and says what is wrong with its details', async () => {
    const { asked } = open({
      'POST /api/v1/contacts/id-1/try': ({ body }: SentRequest) =>
        (body as { type: string }).type === 'order.placed'
          ? {
              at: AT,
              effects: [
                { words: 'Joined Keepers', kind: 'membership', depth: 0 },
                { words: 'rule Greet ran', kind: 'firing', depth: 1 },
              ],
              scores: [{ key: 'keen', name: 'Keenness', before: 61, after: 41 }],
            }
          : { at: AT, effects: [], scores: [] },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Try a signal' }));
    await userEvent.type(screen.getByLabelText('order'), 'T-1');
    await userEvent.type(screen.getByLabelText('product of item 1'), 'Celadon');
    await userEvent.type(screen.getByLabelText('amount'), '120.50');
    await userEvent.click(screen.getByRole('button', { name: 'Try' }));
    expect(asked('POST /api/v1/contacts/id-1/try')[0]?.body).toEqual({
      type: 'order.placed',
      data: { order: 'T-1', items: [{ product: 'Celadon' }], amount: '120.50', currency: 'SEK' },
    });
    expect(await screen.findByText('Joined Keepers')).toBeInTheDocument();
    expect(screen.getByText('rule Greet ran')).toHaveStyle({ paddingLeft: '18px' });
    expect(screen.getByText('(−20)')).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Signal to try' }), 'page.visited');
    expect(screen.queryByText('Joined Keepers')).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Try' }));
    expect(await screen.findByText('It would change nothing.')).toBeInTheDocument();
  });

  it('keeps what was typed over a fact where it is refused', async () => {
    open({
      'PUT /api/v1/contacts': {
        results: [{ index: 0, contact: null, status: 'rejected', faults: [{ path: [], code: 'x', expected: 'a number' }] }],
      },
    });
    await userEvent.selectOptions(await screen.findByRole('combobox', { name: 'Add a fact' }), 'years');
    await userEvent.click(screen.getByRole('button', { name: /years at the wheel: not known/ }));
    await userEvent.type(screen.getByLabelText('years at the wheel'), '7{Enter}');
    expect(await screen.findByText(/Expected a number/)).toBeInTheDocument();
    expect(screen.getByLabelText('years at the wheel')).toHaveValue('7');
  });

  it('records consent that somebody gave by word of mouth, and another value of a tag, for the one whom the page shows', async () => {
    const { asked } = open({
      'GET /api/v1/contacts/:id': contactView({
        tags: [
          {
            key: 'glaze.litres',
            name: 'litres at home',
            since: AT,
            value: 6,
            goesAt: null,
            reasons: [{ kind: 'hand', ref: 'x', words: 'by hand' }],
          },
        ],
      }),
      'PUT /api/v1/contacts': { results: [{ index: 0, status: 'updated', contact: 'id-1' }] },
    });
    await userEvent.selectOptions(await screen.findByLabelText('Consent to chat'), 'given');
    await waitFor(() =>
      expect(asked('PUT /api/v1/contacts')[0]?.body).toMatchObject({
        matchBy: 'id',
        contacts: [{ id: 'id-1', consent: { chat: 'given' } }],
      }),
    );
    await userEvent.click(screen.getByRole('button', { name: 'value of glaze.litres: 6, edit' }));
    await userEvent.clear(screen.getByLabelText('value of glaze.litres'));
    await userEvent.type(screen.getByLabelText('value of glaze.litres'), '4{Enter}');
    await waitFor(() => expect(asked('PUT /api/v1/contacts')[1]?.body).toMatchObject({ contacts: [{ tags: { 'glaze.litres': '4' } }] }));
  });

  it('asks whether a tag that is active or inactive is the one or the other', async () => {
    const club = definition(170, 'tag', 'glaze.club', 'in the glaze club', { family: 2, value: 'active' });
    const { asked } = open(
      {
        'GET /api/v1/contacts/:id': contactView({
          tags: [{ key: 'glaze.club', name: 'in the glaze club', since: AT, value: 'active', goesAt: null, reasons: [] }],
        }),
        'PUT /api/v1/contacts': { results: [{ index: 0, status: 'updated', contact: 'id-1' }] },
      },
      [club],
    );
    await userEvent.click(await screen.findByRole('button', { name: 'value of glaze.club: active, edit' }));
    await userEvent.selectOptions(screen.getByLabelText('value of glaze.club'), 'inactive');
    await waitFor(() =>
      expect(asked('PUT /api/v1/contacts')[0]?.body).toMatchObject({ contacts: [{ tags: { 'glaze.club': 'inactive' } }] }),
    );
  });

  it('opens the trace of a fact by w, with what else the signal did and what was before, and closes it by Esc', async () => {
    const trace: TraceView = {
      title: 'Why eager?',
      since: AT,
      until: '2026-06-01T08:00:00Z',
      steps: [
        { title: 'Rule Ash', detail: 'version 3', at: AT, link: '/rules/ash' },
        { title: 'Ordered', detail: `at 2026-05-01T08:00:00.000Z`, at: AT, link: null },
      ],
      also: [{ words: 'Added tag glaze.ash' }],
      before: [{ words: 'Was quiet' }],
      takeBack: 12,
    };
    let taken = false;
    const { asked } = open({
      // Once it is taken back there is nothing to take back any more, and the way it came about is another one.
      'GET /api/app/contacts/id-1/trace': () => (taken ? { ...trace, takeBack: null } : trace),
      'POST /api/v1/ledger/12/take-back': ({ query }: SentRequest) => ({
        rehearsed: !(taken = query['rehearse'] !== 'true'),
        signals: 0,
        effects: 3,
        subjects: 1,
        changes: { 'tag removed': 2, 'task taken back': 1 },
        samples: [{ contact: 'id-1', name: 'Anna', changes: ['− glaze.celadon', 'task “Call”'] }],
        stay: 1,
        run: null,
        stays: [{ contact: 'id-1', name: 'Anna', what: 'keeps tag glaze.ash', why: 'it was given by hand since' }],
      }),
    });
    await screen.findByText('line 0');
    await userEvent.keyboard('w');
    const drawer = within(await screen.findByRole('complementary', { name: 'Trace' }));
    expect(await drawer.findByRole('heading', { name: 'Why eager?' })).toHaveFocus();
    expect(drawer.getByRole('link', { name: 'Rule Ash' })).toHaveAttribute('href', '/rules/ash');
    expect(drawer.getByText(/^at /)).not.toHaveTextContent('T08:00');
    expect(drawer.getByText('Added tag glaze.ash')).toBeInTheDocument();
    expect(drawer.getByText('Was quiet')).toBeInTheDocument();
    await userEvent.click(drawer.getByRole('button', { name: 'Take this back' }));
    expect(await screen.findByText('3 effects would be taken back on 1 person: 2 tags removed, 1 task taken back.')).toBeInTheDocument();
    expect(screen.getByText('− glaze.celadon, task “Call”')).toBeInTheDocument();
    expect(screen.getByText('1 would stay:')).toBeInTheDocument();
    expect(asked('POST /api/v1/ledger/12/take-back').map(({ query }) => query['rehearse'])).toEqual(['true']);
    await userEvent.click(screen.getByRole('button', { name: 'Take back' }));
    expect(await screen.findByText(/^3 effects taken back on 1 person/)).toBeInTheDocument();
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Take this back' })).not.toBeInTheDocument());
    expect(screen.getByText('because it was given by hand since')).toBeInTheDocument();
    expect(asked('POST /api/v1/ledger/12/take-back').map(({ query }) => query['rehearse'])).toEqual(['true', 'false']);
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(screen.queryByRole('complementary', { name: 'Trace' })).not.toBeInTheDocument();
  });

  it('merges with another after asking, and says where there is no such contact', async () => {
    const { asked } = open({
      'POST /api/v1/contacts/id-1/merge': ({ body }: SentRequest) =>
        (body as { other: string }).other === 'a@test.example'
          ? { merge: 3, contact: 'id-1' }
          : new Refused(404, { title: 'There is no such contact.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Merge with another …' }));
    const other = screen.getByLabelText('The other contact’s email address');
    await userEvent.type(other, 'x@test.example{Enter}');
    expect(await screen.findByText('There is no such contact.')).toBeInTheDocument();
    await userEvent.clear(other);
    await userEvent.type(other, 'a@test.example{Enter}');
    expect(await screen.findByText('a@test.example is merged into Anna.')).toBeInTheDocument();
    expect(asked('POST /api/v1/contacts/id-1/merge')).toHaveLength(2);
  });

  it('erases only after the address was typed', async () => {
    const contacts = {
      'POST /api/v1/audiences/people': { contacts: [], after: null },
      'POST /api/v1/audiences/count': aCount(),
    };
    const browser = open({ ...contacts, 'DELETE /api/v1/contacts/:id': () => undefined });
    await userEvent.click(await screen.findByRole('button', { name: 'Erase …' }));
    const erase = screen.getByRole('button', { name: 'Erase' });
    expect(erase).toBeDisabled();
    await userEvent.type(screen.getByLabelText(/to do it/), 'anna@test.exampl');
    expect(erase).toBeDisabled();
    await userEvent.type(screen.getByLabelText(/to do it/), 'e');
    await userEvent.click(erase);
    await waitFor(() => expect(browser.at()).toBe('/people'));
    expect(await screen.findByText('Anna is erased.')).toBeInTheDocument();
  });
});

describe('people', () => {
  const people = (answer: (asked: SentRequest) => unknown, counted: object = { count: 2, of: 9, reachable: 1, asOf: '', lines: [] }) =>
    openPage('/people', { 'POST /api/v1/audiences/people': answer, 'POST /api/v1/audiences/count': counted });
  const row = (n: number) => ({
    id: `id-${n}`,
    name: `Person ${n}`,
    email: null,
    tags: ['a.b', 'a.c', 'a.d', 'a.e'],
    scores: [],
    lastFromThem: null,
    added: AT,
  });

  it('go up and down by k and j, and open by Enter', async () => {
    const browser = people(() => ({ contacts: [row(1), row(2)], after: null }));
    (await screen.findByRole('region', { name: 'People' })).focus();
    await userEvent.keyboard('j');
    await waitFor(() => expect(screen.getByRole('link', { name: 'Person 1' })).toHaveFocus());
    await userEvent.keyboard('j');
    await waitFor(() => expect(screen.getByRole('link', { name: 'Person 2' })).toHaveFocus());
    await userEvent.keyboard('k');
    await waitFor(() => expect(screen.getByRole('link', { name: 'Person 1' })).toHaveFocus());
    expect(browser.at()).toBe('/people');
  });

  it('that are none yet say where they come from; that none fits says which name', async () => {
    people(() => ({ contacts: [], after: null }), { count: 0, of: 0, reachable: 0, asOf: '' });
    expect(await screen.findByText('Nobody here yet')).toBeInTheDocument();
  });

  it('are searched in the table, and narrowed down by lines', async () => {
    const { asked } = people(({ body }) => ({ contacts: (body as { search?: string }).search ? [] : [row(1)], after: null }));
    await screen.findByRole('link', { name: 'Person 1' });
    await userEvent.type(screen.getByRole('searchbox'), 'zed');
    expect(await screen.findByText('Nobody in this table goes by “zed”.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Narrow down' }));
    await userEvent.type(screen.getByRole('combobox', { name: 'Type a line' }), 'has tag glaze.ash{Enter}');
    await waitFor(() => expect(JSON.stringify(asked('POST /api/v1/audiences/count').at(-1)?.body)).toContain('glaze.ash'));
    expect(asked('POST /api/v1/audiences/count').at(-1)?.body).toMatchObject({ sieve: true });
  });

  it('say that the server is silent', async () => {
    people(() => SILENT);
    expect(await screen.findByRole('alert')).toHaveTextContent('The server does not answer.');
  });
});
