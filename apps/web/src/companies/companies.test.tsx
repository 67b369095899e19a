import { capabilities, type Capability, type CompanyRow, type CompanyView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aCount, aLedgerRow } from '../testing/answers';
import { openPage, Refused, SILENT, type Answers, type SentRequest } from '../testing/page';

const READING: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read'));
const LONG = 'The Society of Potters, Glazers, Kiln Builders and Clay Diggers of the Upper and the Lower Valley';
const row = (n: number, name = `Company ${n}`): CompanyRow => ({
  id: `k-${n}`,
  outsideId: `c${n}`,
  name,
  fields: [],
  scores: [],
  contacts: n,
});
const view = (said: Partial<CompanyView> = {}): CompanyView => ({
  ...row(1, 'Lantern'),
  fields: [{ key: 'seats', name: 'seats', value: 40, shown: '40' }],
  ...{ parts: [], parent: null, branches: [], together: 1 },
  people: [{ id: 'id-1', name: 'Anna', email: 'anna@test.example', part: null }],
  deals: [],
  audiences: [],
  ...said,
});
const COUNTED: Answers = { 'POST /api/v1/audiences/count': aCount({ count: 2, of: 2 }) };
const listOf = (...companies: readonly CompanyRow[]): Answers => ({
  'POST /api/v1/audiences/people': { contacts: [], companies, after: null },
  'GET /api/app/views': { views: [] },
});
const done = { rows: [aLedgerRow({ company: 'k-1', companyName: 'Lantern', words: 'seats set to 40' })], after: null };
const page: Answers = {
  'GET /api/v1/companies/k-1': view(),
  'GET /api/v1/companies/k-1/ledger': done,
  'GET /api/app/companies/k-1/timeline': { entries: [], after: null, types: [] },
};

describe('what the contacts of a company did', () => {
  it('stands on its page: how often by how many, and each thing with whose it is', async () => {
    const lastAt = '2026-05-01T08:00:00Z';
    const signal = {
      ...{ id: 7, type: 'order.placed', typeName: 'Order', verb: 'ordered', time: lastAt, receivedAt: lastAt, source: 'shop' },
      ...{ senderId: '7', summary: 'Celadon', data: {} },
    };
    openPage('/people/companies/k-1', {
      ...page,
      'GET /api/app/companies/k-1/timeline': {
        entries: [
          { key: 'signal 7', at: lastAt, words: 'ordered: Celadon', contact: { id: 'id-1', name: 'Anna' }, did: [], more: 0, signal },
        ],
        after: null,
        types: [{ key: 'order.placed', verb: 'ordered', signals: 1204, lately: 0, people: 3, lastAt }],
      },
    });
    const row = await screen.findByRole('row', { name: /^ordered/ });
    expect(row).toHaveTextContent(/ordered1,204none3 people/);
    const entry = screen.getByText('ordered: Celadon').closest('li') as HTMLElement;
    expect(within(entry).getByRole('link', { name: 'Anna' })).toHaveAttribute('href', '/people/id-1');
  });
});

describe('the companies', () => {
  it('are sorted by the heads of their columns, by name at first, the most first where it is a number', async () => {
    const { asked } = openPage('/people/companies', { ...COUNTED, ...listOf(row(1), row(2)) });
    const sort = () => (asked('POST /api/v1/audiences/people').at(-1)?.body as { sort?: unknown }).sort;
    const sorted = async (name: string, by: unknown): Promise<void> => {
      await userEvent.click(await screen.findByRole('button', { name }));
      await waitFor(() => expect(sort()).toEqual(by));
    };
    await screen.findByRole('link', { name: 'Company 1' });
    expect(sort()).toEqual([{ column: { kind: 'name' }, down: false }]);
    await sorted('Contacts', [{ column: { kind: 'contacts' }, down: true }]);
    expect(await screen.findByRole('columnheader', { name: /Contacts/ })).toHaveAttribute('aria-sort', 'descending');
    await sorted('Contacts', [{ column: { kind: 'contacts' }, down: false }]);
    await sorted('Contacts', undefined);
  });

  it('stand under columns of one’s own, which their address keeps', async () => {
    const columns = [
      { kind: 'deals', what: 'worth' },
      { kind: 'field', field: 'seats', of: 'company' },
    ];
    const { asked } = openPage(
      `/people/companies?${new URLSearchParams({ table: JSON.stringify({ columns: columns.map((column) => ({ column })) }) }).toString()}`,
      {
        ...COUNTED,
        ...listOf({
          ...row(1),
          cells: [
            { is: 'number', number: 20750, shown: '20,750.00 SEK' },
            { is: 'number', number: 40, shown: '40' },
          ],
        }),
      },
    );
    const shown = await screen.findByRole('row', { name: /Company 1/ });
    for (const words of ['20,750.00 SEK', '40']) expect(within(shown).getByText(words)).toBeInTheDocument();
    expect((asked('POST /api/v1/audiences/people')[0]?.body as { columns: unknown }).columns).toEqual(columns);
    await userEvent.click(screen.getByRole('button', { name: 'Columns …' }));
    await userEvent.click(within(screen.getByRole('dialog')).getByRole('button', { name: 'Open deals' }));
    await waitFor(() =>
      expect((asked('POST /api/v1/audiences/people').at(-1)?.body as { columns: unknown[] }).columns).toContainEqual({
        kind: 'deals',
        what: 'open',
      }),
    );
  });

  it('are narrowed by conditions, summed up and taken along as they are, and kept as an audience', async () => {
    const condition = { match: 'all', of: [{ kind: 'field', of: 'company', field: 'seats', op: '>', value: 20 }] };
    const { asked } = openPage(`/people/companies?${new URLSearchParams({ table: JSON.stringify({ condition }) }).toString()}`, {
      ...COUNTED,
      ...listOf(row(1)),
      'POST /api/app/contacts/column': { of: 2, filled: 1, numbers: null, times: null, values: [], distinct: 0 },
      'PUT /api/v1/definitions': { made: ['audience large'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    expect(await screen.findByText(/^Companies .*more than 20\.$/)).toBeInTheDocument();
    expect(asked('POST /api/v1/audiences/count').at(-1)?.body).toMatchObject({ of: 'company', condition });
    await userEvent.click(await screen.findByRole('button', { name: 'What Contacts comes to' }));
    expect(await screen.findByText('1 of 2 rows have something here.')).toBeInTheDocument();
    expect(asked('POST /api/app/contacts/column')[0]?.body).toEqual({ of: 'company', condition, column: { kind: 'contacts' } });
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    await userEvent.click(screen.getByRole('button', { name: 'Keep as audience …' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(dialog.getByText(/A list of which they are now: 2 companies/)).toBeInTheDocument();
    await userEvent.type(dialog.getByLabelText('Name'), 'Large');
    await userEvent.click(dialog.getByRole('button', { name: 'Keep' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
        audiences: [{ key: 'large', name: 'Large', kind: 'live', of: 'company', condition }],
      }),
    );
  });

  it('are ticked and changed at once after a rehearsal, by what companies have', async () => {
    const { asked } = openPage('/people/companies', {
      ...COUNTED,
      ...listOf(row(1), row(2)),
      'POST /api/app/contacts/change/rehearse': {
        steps: [{ words: 'would be changed', count: 2 }],
        ...{ touched: 2, changes: { 'field set': 2 }, samples: [], pace: null, everyone: true, work: [] },
      },
      'POST /api/app/contacts/change': {
        ...{
          id: 7,
          of: 'company',
          version: 0,
          what: 'set seats to 30',
          by: 'wren@test.example',
          plannedFor: null,
          state: 'done',
          total: 2,
        },
        ...{ looked: 2, touched: 2, refused: 0, changes: {}, startedAt: '2026-11-25T09:00:00Z', endedAt: null },
      },
    });
    for (const name of ['Tick Company 1', 'Tick Company 2']) await userEvent.click(await screen.findByRole('checkbox', { name }));
    const bar = screen.getByRole('group', { name: 'Do to many' });
    expect(bar).toHaveTextContent('2 companies ticked');
    expect(within(bar).queryByRole('button', { name: 'Run a bundle …' })).toBeNull();
    await userEvent.click(within(bar).getByRole('button', { name: 'Change …' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(
      within(dialog.getByLabelText('What to do'))
        .getAllByRole('option')
        .map((each) => each.textContent),
    ).toEqual(['set a fact', 'clear a fact', 'put on a list', 'take off a list']);
    await userEvent.selectOptions(dialog.getByLabelText('Fact'), 'seats');
    await userEvent.type(await dialog.findByLabelText('Value of seats'), '30');
    await userEvent.click(await dialog.findByRole('button', { name: 'Do it: changes 2 companies' }));
    const change = { of: 'company', who: { companies: ['k-1', 'k-2'] }, change: { fields: { seats: '30' } } };
    await waitFor(() => expect(asked('POST /api/app/contacts/change').map(({ body }) => body)).toEqual([change]));
    expect(await screen.findByText(/^2 companies: set seats to 30/)).toBeInTheDocument();
  });

  it('are listed, however long a name is, and searched by name on the server', async () => {
    const { asked } = openPage('/people/companies', {
      ...COUNTED,
      'POST /api/v1/audiences/people': ({ body }: SentRequest) => {
        const { search } = body as { search?: string };
        return { contacts: [], companies: search === 'society' ? [row(2, LONG)] : search ? [] : [row(1), row(2, LONG)], after: null };
      },
    });
    expect(await screen.findByRole('link', { name: 'Company 1' })).toBeInTheDocument();
    expect(screen.getByRole('link', { name: LONG })).toHaveAttribute('href', '/people/companies/k-2');
    await userEvent.type(screen.getByLabelText('Search in this table'), 'society');
    await waitFor(() => expect(screen.queryByRole('link', { name: 'Company 1' })).not.toBeInTheDocument());
    await userEvent.type(screen.getByLabelText('Search in this table'), ' of none');
    expect(await screen.findByText('No company goes by “society of none”')).toBeInTheDocument();
    expect((asked('POST /api/v1/audiences/people').at(-1)?.body as { search: string }).search).toBe('society of none');
  });

  it('say so where there is none, and where the server is silent, and ask again', async () => {
    let up = false;
    openPage('/people/companies', {
      'POST /api/v1/audiences/count': aCount(),
      'POST /api/v1/audiences/people': () => (up ? { contacts: [], companies: [], after: null } : SILENT),
    });
    expect(await screen.findByRole('alert')).toHaveTextContent('The server does not answer.');
    up = true;
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByText('No company yet')).toBeInTheDocument();
  });

  it('take a new one, and keep what was entered where there is one with that id', async () => {
    const { asked } = openPage('/people/companies', {
      ...COUNTED,
      ...listOf(row(1)),
      'PUT /api/v1/companies': ({ body }: SentRequest) => ({
        results: [{ index: 0, company: 'k-9', status: JSON.stringify(body).includes('"c1"') ? 'skipped' : 'created' }],
      }),
    });
    await userEvent.click(await screen.findByRole('button', { name: /New company/ }));
    const dialog = within(screen.getByRole('dialog'));
    const [name, id] = dialog.getAllByRole('textbox') as [HTMLElement, HTMLElement];
    await userEvent.type(name, 'Lantern');
    await userEvent.type(id, 'c1{Enter}');
    expect(await screen.findByText('There is a company with the id c1 already.')).toBeInTheDocument();
    expect(id).toHaveValue('c1');
    await userEvent.clear(id);
    await userEvent.type(id, 'lantern{Enter}');
    expect(await screen.findByText('Lantern is there.')).toBeInTheDocument();
    expect(asked('PUT /api/v1/companies').at(-1)?.body).toEqual({
      onExisting: 'skip',
      companies: [{ outsideId: 'lantern', name: 'Lantern' }],
    });
  });

  it('offer a viewer no way to make one', async () => {
    openPage('/people/companies', { ...COUNTED, ...listOf(row(1)) }, { may: READING });
    await screen.findByRole('link', { name: 'Company 1' });
    expect(screen.queryByRole('button', { name: /New company/ })).not.toBeInTheDocument();
  });
});

describe('the page of a company', () => {
  it('shows its people, its facts and what was done to it, and takes a fact', async () => {
    const { asked } = openPage('/people/companies/k-1', {
      ...page,
      'PUT /api/v1/companies': { results: [{ index: 0, company: 'k-1', status: 'updated' }] },
    });
    expect(await screen.findByRole('heading', { name: 'Lantern' })).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Anna' })).toHaveAttribute('href', '/people/id-1');
    expect(await screen.findByText('seats set to 40')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'seats: 40, edit' }));
    await userEvent.clear(screen.getByRole('textbox', { name: 'seats' }));
    await userEvent.type(screen.getByRole('textbox', { name: 'seats' }), '55{Enter}');
    await waitFor(() => expect(asked('PUT /api/v1/companies')).toHaveLength(1));
    expect(asked('PUT /api/v1/companies')[0]?.body).toEqual({ companies: [{ outsideId: 'c1', fields: { seats: '55' } }] });
  });

  it('says why a fact was refused, and leaves it open', async () => {
    openPage('/people/companies/k-1', {
      ...page,
      'PUT /api/v1/companies': {
        results: [
          {
            index: 0,
            company: null,
            status: 'rejected',
            faults: [{ path: ['fields', 'seats'], code: 'value.number', expected: 'a number' }],
          },
        ],
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'seats: 40, edit' }));
    await userEvent.type(screen.getByRole('textbox', { name: 'seats' }), ' or so{Enter}');
    expect(await screen.findByText('Expected a number')).toBeInTheDocument();
    expect(screen.getByRole('textbox', { name: 'seats' })).toHaveValue('40 or so');
  });

  it('says where there is no such company, and to a viewer offers nothing to change', async () => {
    openPage('/people/companies/gone', { 'GET /api/v1/companies/gone': new Refused(404, { title: 'There is no such company.' }) });
    expect(await screen.findByText('There is no such company.')).toBeInTheDocument();
    openPage('/people/companies/k-1', page, { may: READING });
    await screen.findByRole('heading', { name: 'Lantern' });
    expect(screen.queryByRole('button', { name: /seats: 40, edit/ })).not.toBeInTheDocument();
  });

  it('says what it is a branch of and what its branches are, and is linked to another by its name', async () => {
    const branches = [
      { id: 'k-7', name: 'Lantern Quay', contacts: 3 },
      { id: 'k-8', name: 'Lantern Hill', contacts: 0 },
    ];
    const { asked } = openPage('/people/companies/k-1', {
      ...page,
      'GET /api/v1/companies/k-1': view({ parent: { id: 'k-9', name: 'The Lantern Group' }, branches, together: 12 }),
      'GET /api/app/companies': { companies: [row(1, 'Lantern'), { ...row(9, 'The Lantern Group') }, row(5, 'Harbour Inns')], after: null },
      'PUT /api/v1/companies': { results: [{ index: 0, company: 'k-1', status: 'updated' }] },
    });
    expect(await screen.findByRole('link', { name: 'The Lantern Group' })).toHaveAttribute('href', '/people/companies/k-9');
    expect(screen.getByRole('link', { name: 'Lantern Quay' })).toBeInTheDocument();
    expect(screen.getByText('With them and theirs, 12 people.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Branch of The Lantern Group, change' }));
    const dialog = within(screen.getByRole('dialog'));
    // It is no branch of itself, and is one of the other already.
    expect(await dialog.findAllByRole('button', { name: /^Link to/ })).toHaveLength(1);
    await userEvent.click(dialog.getByRole('button', { name: 'Link to Harbour Inns' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/companies')[0]?.body).toEqual({ companies: [{ outsideId: 'c1', fields: { 'parent-company': 'c5' } }] }),
    );
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });
});
