import { capabilities, type Capability, type ContactView } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import { openPage } from '../testing/page';

const reading: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read') && each !== 'settings:read');
const COUNT = { count: 0, of: 0, reachable: 0, asOf: '', lines: [] };
const answers = {
  'POST /api/v1/audiences/count': COUNT,
  'POST /api/v1/audiences/people': { contacts: [], after: null },
  'GET /api/v1/audiences': { audiences: [] },
  'GET /api/app/sends': [],
  'GET /api/app/stream': { rows: [], after: null },
  'GET /api/app/sources': [],
  'GET /api/app/circles': [],
  'GET /api/v1/companies': { companies: [], after: null },
};
/** What only those who may write do: the words of every button and link that begins or keeps a change. */
const WRITES = /^(New|Keep|Save|Publish|Import|Turn|Send|Add|Take back|Merge|Erase|Delete|Remove|\+ )/;

const CONTACT = {
  id: 'c1',
  email: 'ann@test.example',
  outsideId: null,
  name: 'Ann',
  added: '2026-05-01T00:00:00Z',
  fields: [],
  tags: [],
  consent: [],
  scores: [],
  audiences: [],
  stage: null,
  owner: null,
  company: null,
  deals: [],
  tasks: [],
  merges: [],
  formerAddresses: [],
} as unknown as ContactView;

describe('the pages of a viewer', () => {
  it.each([
    ['/people', 'People'],
    ['/rules', 'Rules'],
    ['/audiences', 'Audiences'],
    ['/campaigns', 'Campaigns'],
    ['/scores', 'Score'],
    ['/tags', 'tag'],
  ])('at %s offer nothing that a viewer may not do', async (address, heading) => {
    openPage(address, answers, { may: reading });
    expect(await screen.findByRole('heading', { level: 1, name: new RegExp(heading, 'i') })).toBeInTheDocument();
    const main = within(screen.getByRole('main'));
    const offered = [...main.queryAllByRole('button'), ...main.queryAllByRole('link')].map((each) => each.textContent ?? '');
    expect(offered.filter((words) => WRITES.test(words.trim()))).toEqual([]);
  });

  it('of a contact tell facts as words, and offer no merging or erasing', async () => {
    openPage(
      '/people/c1',
      {
        'GET /api/v1/contacts/:id': CONTACT,
        'GET /api/app/contacts/c1/timeline': { entries: [], after: null, types: [] },
        'GET /api/app/contacts/timeline': { entries: [], after: null, types: [] },
      },
      { may: reading },
    );
    await screen.findByRole('heading', { level: 1, name: /Ann/ });
    expect(screen.queryByText('Merge with another …')).not.toBeInTheDocument();
    expect(screen.queryByLabelText('Add a fact')).not.toBeInTheDocument();
    expect(screen.queryByLabelText('Stage')).not.toBeInTheDocument();
  });

  it('of a company tell facts as words, and offer no new deal', async () => {
    openPage(
      '/people/companies/m1',
      {
        'GET /api/v1/companies/:id': {
          id: 'm1',
          outsideId: 'mill',
          name: 'The Mill',
          fields: [{ key: 'seats', name: 'seats', value: 12, shown: '12' }],
          scores: [],
          contacts: 0,
          people: [],
          parts: [],
          ...{ parent: null, branches: [], together: 0 },
          deals: [],
          audiences: [],
        },
      },
      { may: reading },
    );
    await screen.findByRole('heading', { level: 1, name: 'The Mill' });
    expect(screen.queryByRole('button', { name: /, edit$/ })).not.toBeInTheDocument();
    expect(screen.queryByText('New deal')).not.toBeInTheDocument();
  });

  it('are the same pages with those offers for who may write', async () => {
    openPage('/rules', answers);
    expect(await screen.findByRole('button', { name: /New rule/ })).toBeInTheDocument();
  });
});
