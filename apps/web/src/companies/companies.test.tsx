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
const done = { rows: [aLedgerRow({ company: 'k-1', companyName: 'Lantern', words: 'seats set to 40' })], after: null };
const page: Answers = {
  'GET /api/v1/companies/k-1': view(),
  'GET /api/v1/companies/k-1/ledger': done,
};

describe('the companies', () => {
  it('are sorted by the heads of their columns, the most first where it is a number', async () => {
    const { asked } = openPage('/people/companies', { ...COUNTED, 'GET /api/app/companies': { companies: [row(1), row(2)], after: null } });
    const query = () => asked('GET /api/app/companies').at(-1)?.query;
    const sorted = async (name: string, by: object): Promise<void> => {
      await userEvent.click(await screen.findByRole('button', { name }));
      await waitFor(() => expect(query()).toMatchObject(by));
    };
    await sorted('Contacts', { sort: 'contacts', down: 'true' });
    expect(await screen.findByRole('columnheader', { name: 'Contacts' })).toHaveAttribute('aria-sort', 'descending');
    await sorted('Contacts', { sort: 'contacts', down: 'false' });
    // What was asked before is not asked again.
    await userEvent.click(screen.getByRole('button', { name: 'Company' }));
    await waitFor(() => expect(screen.getByRole('columnheader', { name: 'Company' })).toHaveAttribute('aria-sort', 'ascending'));
  });

  it('are listed, however long a name is, and searched by name on the server', async () => {
    const { asked } = openPage('/people/companies', {
      ...COUNTED,
      'GET /api/app/companies': ({ query }: SentRequest) => ({
        companies: query['search'] === 'society' ? [row(2, LONG)] : query['search'] ? [] : [row(1), row(2, LONG)],
        after: null,
      }),
    });
    expect(await screen.findByRole('link', { name: 'Company 1' })).toBeInTheDocument();
    expect(screen.getByRole('link', { name: LONG })).toHaveAttribute('href', '/people/companies/k-2');
    await userEvent.type(screen.getByLabelText('Search companies'), 'society');
    await waitFor(() => expect(screen.queryByRole('link', { name: 'Company 1' })).not.toBeInTheDocument());
    await userEvent.type(screen.getByLabelText('Search companies'), ' of none');
    expect(await screen.findByText('No company goes by “society of none”')).toBeInTheDocument();
    expect(asked('GET /api/app/companies').at(-1)?.query['search']).toBe('society of none');
  });

  it('say so where there is none, and where the server is silent, and ask again', async () => {
    let up = false;
    openPage('/people/companies', {
      'POST /api/v1/audiences/count': aCount(),
      'GET /api/app/companies': () => (up ? { companies: [], after: null } : SILENT),
    });
    expect(await screen.findByRole('alert')).toHaveTextContent('The server does not answer.');
    up = true;
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByText('No company yet')).toBeInTheDocument();
  });

  it('take a new one, and keep what was entered where there is one with that id', async () => {
    const { asked } = openPage('/people/companies', {
      ...COUNTED,
      'GET /api/app/companies': { companies: [row(1)], after: null },
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
    openPage('/people/companies', { ...COUNTED, 'GET /api/app/companies': { companies: [row(1)], after: null } }, { may: READING });
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
