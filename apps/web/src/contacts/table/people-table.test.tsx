import { type PersonRow, type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../../testing/catalogue';
import { openPage, Refused } from '../../testing/page';
import { personRow } from '../../testing/people';

const rows: readonly PersonRow[] = [1, 2, 3].map((n) => personRow(n));
const PEOPLE = {
  'POST /api/v1/audiences/count': { count: 3, of: 3, reachable: 3, asOf: '', lines: [] },
  'POST /api/v1/audiences/people': { contacts: rows, after: null },
  'GET /api/app/views': { views: [] },
};
const REHEARSED: RuleRehearsal = {
  steps: [
    { words: 'it is asked of', count: 2 },
    { words: 'would be changed', count: 2 },
  ],
  touched: 2,
  changes: { 'tag added': 2 },
  samples: [{ id: 'id-1', name: 'Person 1', changes: ['+ glaze.ash'], setsOff: [] }],
  pace: null,
  everyone: true,
  work: [],
};
const RUN: SweepRunView = {
  ...{
    id: 7,
    of: 'contact',
    version: 0,
    what: 'add the tag glaze.ash',
    by: 'wren@test.example',
    plannedFor: null,
    state: 'done',
    total: 2,
    looked: 2,
  },
  ...{ touched: 2, refused: 0, changes: { 'tag added': 2 }, startedAt: '2026-11-25T09:00:00Z', endedAt: '2026-11-25T09:00:01Z' },
};
const ADDED = definition(170, 'field', 'added', 'added', { of: 'contact', type: 'date-time' });

const tableOf = (at: string): Record<string, unknown> =>
  JSON.parse(new URLSearchParams(at.split('?')[1]).get('table') ?? '{}') as Record<string, unknown>;

describe('the table of people', () => {
  it('shows what was chosen, and what each column says', async () => {
    const columns = [
      { kind: 'stage' },
      { kind: 'company' },
      { kind: 'tags' },
      { kind: 'score', scorecard: 'keen' },
      { kind: 'field', field: 'years' },
    ];
    const { asked } = openPage(
      `/people?${new URLSearchParams({ table: JSON.stringify({ columns: columns.map((column) => ({ column })) }) }).toString()}`,
      {
        ...PEOPLE,
        'POST /api/v1/audiences/people': {
          contacts: [
            personRow(1, {
              cells: [
                { is: 'text', shown: 'customer' },
                { is: 'text', shown: 'Åker Kiln', to: 'kiln' },
                { is: 'tags', tags: ['glaze.ash', 'glaze.celadon', 'glaze.since', 'glaze.litres'] },
                { is: 'score', points: 61.5, band: 'eager' },
                { is: 'number', number: 3, shown: '3' },
              ],
            }),
            personRow(2, { cells: [null, null, null, null, null] }),
          ],
          after: null,
        },
      },
    );
    const row = await screen.findByRole('row', { name: /Person 1/ });
    for (const words of ['customer', 'Åker Kiln', 'and 1 more', '61.5', '3']) expect(within(row).getByText(words)).toBeInTheDocument();
    expect(within(row).getByRole('link', { name: 'Åker Kiln' })).toHaveAttribute('href', '/people/companies/kiln');
    expect(within(screen.getByRole('row', { name: /Person 2/ })).getAllByText('–')).toHaveLength(5);
    expect((asked('POST /api/v1/audiences/people')[0]?.body as { columns: unknown }).columns).toEqual(columns);
  });

  it('is sorted by a click on a head, deeper with Shift, which stands in its address', async () => {
    const user = userEvent.setup();
    const browser = openPage('/people', PEOPLE, { more: [ADDED] });
    await user.click(await screen.findByRole('button', { name: 'Keenness' }));
    expect(await screen.findByRole('columnheader', { name: /Keenness/ })).toHaveAttribute('aria-sort', 'descending');
    await user.keyboard('{Shift>}');
    await user.click(screen.getByRole('button', { name: 'Contact' }));
    await user.keyboard('{/Shift}');
    await waitFor(() =>
      expect(tableOf(browser.at())).toEqual({
        sort: [
          { column: { kind: 'score', scorecard: 'keen' }, down: true },
          { column: { kind: 'name' }, down: false },
        ],
      }),
    );
    expect((browser.asked('POST /api/v1/audiences/people').at(-1)?.body as { sort: unknown[] }).sort).toHaveLength(2);
  });

  it('gets columns that are searched for or counted, moves and loses them, and is wider by the arrows', async () => {
    const browser = openPage('/people', PEOPLE, { more: [ADDED] });
    await userEvent.click(await screen.findByRole('button', { name: 'Columns …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Add' }));
    await userEvent.type(within(dialog).getByLabelText('Search for a column'), 'owner');
    await userEvent.click(await within(dialog).findByRole('button', { name: 'Owner' }));
    await userEvent.click(await within(dialog).findByRole('button', { name: 'Take Tags out' }));
    const owner = (await within(dialog).findByText('Owner')).closest('li') as HTMLElement;
    await userEvent.click(within(owner).getByRole('checkbox'));
    await userEvent.click(within(dialog).getByRole('button', { name: 'Done' }));
    await waitFor(() =>
      expect((tableOf(browser.at())['columns'] as { column: { kind: string } }[]).map(({ column }) => column.kind)).toEqual([
        'score',
        'last',
        'field',
        'measure',
        'owner',
      ]),
    );
    expect(screen.getAllByRole('columnheader').map((head) => head.textContent)).toEqual(
      expect.arrayContaining(['Contact', 'Owner', 'Keenness', 'Times they ordered in the last 90 days']),
    );
    const edge = screen.getByRole('separator', { name: 'Width of Owner' });
    edge.focus();
    await userEvent.keyboard('{ArrowRight}');
    await waitFor(() => expect(screen.getByRole('separator', { name: 'Width of Owner' })).toHaveAttribute('aria-valuenow', '200'));
  });

  it('ticks by the mouse and by x, and changes those after a rehearsal', async () => {
    const { asked } = openPage('/people', {
      ...PEOPLE,
      'POST /api/app/contacts/change/rehearse': REHEARSED,
      'POST /api/app/contacts/change': RUN,
    });
    await userEvent.click(await screen.findByRole('checkbox', { name: 'Tick Person 1' }));
    screen.getByRole('link', { name: 'Person 3' }).focus();
    await userEvent.keyboard('x');
    const bar = screen.getByRole('group', { name: 'Do to many' });
    expect(bar).toHaveTextContent('2 people ticked');
    await userEvent.click(within(bar).getByRole('button', { name: 'Change …' }));
    const dialog = screen.getByRole('dialog');
    expect(within(dialog).getByRole('button', { name: 'Do it' })).toBeDisabled();
    await userEvent.selectOptions(within(dialog).getByLabelText('Tag'), 'glaze.ash');
    await userEvent.click(await within(dialog).findByRole('button', { name: 'Do it: changes 2 people' }));
    const body = { of: 'contact', who: { contacts: ['id-1', 'id-3'] }, change: { tags: { 'glaze.ash': true } } };
    await waitFor(() => expect(asked('POST /api/app/contacts/change').map((each) => each.body)).toEqual([body]));
    expect(asked('POST /api/app/contacts/change/rehearse').at(-1)?.body).toEqual(body);
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  it('offers nothing for all of them while a search shows some alone', async () => {
    const condition = { match: 'all', of: [{ kind: 'tag', tag: 'glaze.ash', op: 'has' }] };
    openPage(`/people?${new URLSearchParams({ table: JSON.stringify({ condition }) }).toString()}`, PEOPLE);
    expect(await screen.findByRole('button', { name: 'Change …' })).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText('Search in this table'), 'anna');
    expect(await screen.findByText('to change or keep them, clear the search, or tick those you mean')).toBeInTheDocument();
    for (const name of ['Change …', 'Run a bundle …', 'Keep as audience …']) expect(screen.queryByRole('button', { name })).toBeNull();
    await userEvent.click(screen.getByRole('checkbox', { name: 'Tick Person 3' }));
    await userEvent.click(screen.getByRole('checkbox', { name: 'Tick Person 1' }));
    expect(screen.getByRole('button', { name: 'Change …' })).toBeInTheDocument();
  });

  it.each([
    ['remove tag', 'Tag', 'glaze.ash', { tags: { 'glaze.ash': false } }],
    ['clear field', 'Fact', 'years', { fields: { years: null } }],
    ['stage', 'Stage', 'customer', { stage: 'customer' }],
    ['stage', 'Stage', '-', { stage: null }],
    ['put on', 'List', 'guests', { lists: { guests: true } }],
    ['take off', 'List', 'guests', { lists: { guests: false } }],
    ['consent', 'State of the consent', 'withdrawn', { consent: { email: 'withdrawn' } }],
  ])('can be asked to “%s”: %s, %s', async (kind, label, value, change) => {
    const { asked } = openPage('/people', { ...PEOPLE, 'POST /api/app/contacts/change/rehearse': REHEARSED });
    await userEvent.click(await screen.findByRole('checkbox', { name: 'Tick Person 2' }));
    await userEvent.click(screen.getByRole('button', { name: 'Change …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.selectOptions(within(dialog).getByLabelText('What to do'), kind);
    await userEvent.selectOptions(within(dialog).getByLabelText(label), value);
    await waitFor(() =>
      expect((asked('POST /api/app/contacts/change/rehearse').at(-1)?.body as { change: unknown }).change).toEqual(change),
    );
  });

  it('says what is wrong with a change, and keeps what was said', async () => {
    openPage('/people', { ...PEOPLE, 'POST /api/app/contacts/change/rehearse': new Refused(422, { title: 'This cannot be set.' }) });
    await userEvent.click(await screen.findByRole('checkbox', { name: 'Tick Person 2' }));
    await userEvent.click(screen.getByRole('button', { name: 'Change …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.selectOptions(within(dialog).getByLabelText('Tag'), 'glaze.litres');
    await userEvent.type(within(dialog).getByLabelText('Value of the tag'), '4');
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('This cannot be set.');
    expect(within(dialog).getByLabelText('Value of the tag')).toHaveValue(4);
    expect(within(dialog).getByRole('button', { name: 'Do it' })).toBeDisabled();
  });

  it('is kept as an audience that keeps itself, or as a list of who they are', async () => {
    const condition = { match: 'all', of: [{ kind: 'tag', tag: 'glaze.ash', op: 'has' }] };
    const address = `/people?${new URLSearchParams({ table: JSON.stringify({ condition }) }).toString()}`;
    const saved = { made: ['audience ash-people'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
    const { asked } = openPage(address, {
      ...PEOPLE,
      'PUT /api/v1/definitions': saved,
      'POST /api/app/contacts/change': RUN,
      'GET /api/v1/audiences/:id': new Refused(404),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Keep as audience …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.type(within(dialog).getByLabelText('Name'), 'Ash people');
    await userEvent.click(within(dialog).getByRole('radio', { name: /A list of who they are now: 3 people/ }));
    await userEvent.click(within(dialog).getByRole('button', { name: 'Keep' }));
    await waitFor(() =>
      expect(asked('POST /api/app/contacts/change').map((each) => each.body)).toEqual([
        { of: 'contact', who: { condition }, change: { lists: { 'ash-people': true } } },
      ]),
    );
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
      audiences: [{ key: 'ash-people', name: 'Ash people', kind: 'fixed', of: 'contact' }],
    });
  });

  it('says what a column comes to', async () => {
    const { asked } = openPage('/people', {
      ...PEOPLE,
      'POST /api/app/contacts/column': {
        ...{ of: 3, filled: 2, times: null, values: [], distinct: 0 },
        numbers: {
          sum: 125.5,
          mean: 62.75,
          least: 25.5,
          most: 100,
          bins: [
            { from: 25.5, to: 62.75, count: 1 },
            { from: 62.75, to: 100, count: 1 },
          ],
        },
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'What Keenness comes to' }));
    const dialog = screen.getByRole('dialog', { name: 'Keenness' });
    expect(await within(dialog).findByText('2 of 3 rows have something here.')).toBeInTheDocument();
    expect(within(dialog).getByText('125.5')).toBeInTheDocument();
    expect(within(dialog).getByRole('row', { name: /62.75 to 100/ })).toBeInTheDocument();
    expect(asked('POST /api/app/contacts/column').map(({ body }) => body)).toEqual([
      { condition: { match: 'all', of: [] }, column: { kind: 'score', scorecard: 'keen' } },
    ]);
  });

  it('begins at a row of its own, and goes back to the top', async () => {
    const { asked } = openPage('/people', {
      ...PEOPLE,
      'POST /api/v1/audiences/count': { count: 4_000, of: 4_000, reachable: 3, asOf: '', lines: [] },
    });
    await userEvent.type(await screen.findByLabelText('Go to row'), '2001');
    await userEvent.click(screen.getByRole('button', { name: 'Go' }));
    expect(await screen.findByText(/From row 2,001 on/)).toBeInTheDocument();
    expect((asked('POST /api/v1/audiences/people').at(-1)?.body as { skip: number }).skip).toBe(2_000);
    await userEvent.type(screen.getByLabelText('Go to row'), '4001');
    expect(screen.getByRole('button', { name: 'Go' })).toBeDisabled();
    await userEvent.click(screen.getByRole('button', { name: 'To the top' }));
    await waitFor(() => expect(screen.queryByText(/From row/)).toBeNull());
  });
});

describe('changes of many', () => {
  it('are listed with what each did and the way back', async () => {
    openPage('/people/changes', { 'GET /api/app/contacts/changes': { runs: [RUN], nextAt: null } });
    const list = await screen.findByRole('list', { name: 'Changes' });
    expect(list).toHaveTextContent('add the tag glaze.ash');
    expect(list).toHaveTextContent('touched 2 people: 2 tags added');
    expect(within(list).getByRole('button', { name: 'Take back' })).toBeInTheDocument();
  });

  it('say where there are none', async () => {
    openPage('/people/changes', { 'GET /api/app/contacts/changes': { runs: [], nextAt: null } });
    expect(await screen.findByText('Nothing yet')).toBeInTheDocument();
  });
});
