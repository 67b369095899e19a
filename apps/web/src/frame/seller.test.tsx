import { roleCapabilities, type SessionView } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { anAudience } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { openPage, Refused, sessionOf, type Answers } from '../testing/page';
import { personRow } from '../testing/people';

const session: SessionView = { ...sessionOf(roleCapabilities.seller), own: ['wren@test.example'] };
const answers: Answers = {
  'GET /api/app/session': session,
  'POST /api/v1/audiences/count': { count: 1, of: 1, reachable: 1, asOf: '', lines: [] },
  'POST /api/v1/audiences/people': { contacts: [personRow(1)], after: null },
};
const CONTACT = {
  ...{ id: 'c1', email: 'ann@test.example', outsideId: null, name: 'Ann', added: '2026-05-01T00:00:00Z', owner: 'wren@test.example' },
  ...{ fields: [], tags: [], consent: [], scores: [], audiences: [], deals: [], tasks: [], merges: [], formerAddresses: [], stage: null },
  company: { id: 'm1', outsideId: 'mill', name: 'The Mill' },
};

describe('the pages of a seller', () => {
  it('begin with their own contacts, and lead to no place that tells of others', async () => {
    const { at, asked } = openPage('/', answers);
    expect(await screen.findByRole('heading', { level: 1, name: 'Your contacts: 1' })).toBeInTheDocument();
    expect(at()).toBe('/people');
    const places = within(screen.getByRole('navigation', { name: 'Places' })).getAllByRole('link');
    expect(places.map((each) => each.textContent)).toEqual(['People', 'Tags', 'Rules', 'Scores', 'Audiences', 'Settings']);
    const ways = within(screen.getByRole('navigation', { name: 'In People' })).getAllByRole('link');
    expect(ways.map((each) => each.textContent)).toEqual(['Your contacts', 'Deals', 'Tasks', 'Worklists']);
    expect(screen.queryByRole('button', { name: 'Views' })).not.toBeInTheDocument();
    expect(screen.queryByText('Take along')).not.toBeInTheDocument();
    expect(screen.queryByText('Import')).not.toBeInTheDocument();
    expect([...asked('GET /api/app/values'), ...asked('GET /api/app/today'), ...asked('GET /api/app/people/names')]).toEqual([]);
  });

  it('say where nobody is in their care', async () => {
    openPage('/people', {
      ...answers,
      'POST /api/v1/audiences/count': { count: 0, of: 0, reachable: 0, asOf: '', lines: [] },
      'POST /api/v1/audiences/people': { contacts: [], after: null },
    });
    expect(await screen.findByRole('heading', { name: 'Nobody is in your care yet' })).toBeInTheDocument();
  });

  it('of a contact name its company, and offer neither merging nor erasing nor a file of everything', async () => {
    openPage('/people/c1', {
      ...answers,
      'GET /api/v1/contacts/:id': CONTACT,
      'GET /api/app/contacts/c1/timeline': { entries: [], after: null, types: [] },
    });
    await screen.findByRole('heading', { level: 1, name: /Ann/ });
    expect(screen.getByText('The Mill')).toBeInTheDocument();
    expect(screen.queryByRole('link', { name: 'The Mill' })).not.toBeInTheDocument();
    expect(screen.queryByText('Merge with another …')).not.toBeInTheDocument();
    expect(screen.queryByText('Everything about them:')).not.toBeInTheDocument();
    expect(screen.getByLabelText('Add a fact')).toBeInTheDocument();
  });

  it('of a list let them put their own contacts on it, one by one, and make no new ones', async () => {
    const list = definition(703, 'audience', 'callers', 'Callers', { kind: 'fixed', of: 'contact' });
    openPage(
      '/audiences/callers',
      {
        ...answers,
        'GET /api/v1/audiences/callers': anAudience({ key: 'callers', kind: 'fixed', members: 0 }),
        'GET /api/v1/audiences/callers/members': { contacts: [], after: null },
        'GET /api/v1/contacts/:id': new Refused(404, { title: 'There is no such contact.' }),
      },
      { more: [list] },
    );
    expect(await screen.findByText('None of your contacts is on this list yet')).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Paste many …' })).not.toBeInTheDocument();
    await userEvent.type(screen.getByLabelText('Put on the list, by email address'), 'else@test.example{Enter}');
    expect(await screen.findByRole('alert')).toHaveTextContent('None of your contacts has the address else@test.example. Is it mistyped?');
    expect(screen.queryByRole('button', { name: 'Add them as a new contact' })).not.toBeInTheDocument();
  });

  it('that are not for them say so', async () => {
    openPage('/campaigns', answers);
    expect(await screen.findByRole('heading', { name: 'This page is not for your role' })).toBeInTheDocument();
  });
});
