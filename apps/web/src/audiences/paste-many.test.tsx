import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { anAudience } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { openPage, Refused } from '../testing/page';

const LIST = {
  'GET /api/v1/audiences/:id': anAudience({ key: 'guests', name: 'Guests', kind: 'fixed', members: 0 }),
  'GET /api/v1/audiences/guests/members': { contacts: [], after: null },
};
const FOUND = { known: [{ address: 'anna@test.example', id: 'id-1', name: 'Anna' }], unknown: ['nobody@test.example'] };

async function pasted(text: string): Promise<HTMLElement> {
  await userEvent.click(await screen.findByRole('button', { name: 'Paste many …' }));
  const dialog = screen.getByRole('dialog');
  await userEvent.click(within(dialog).getByRole('textbox'));
  await userEvent.paste(text);
  return dialog;
}

describe('addresses pasted onto a list', () => {
  it('are looked up; who is known is put on, who is not is shown', async () => {
    const { asked } = openPage('/audiences/guests', {
      ...LIST,
      'POST /api/app/contacts/find': FOUND,
      'POST /api/app/contacts/change': {
        ...{
          id: 1,
          of: 'contact',
          version: 0,
          what: 'put on the list Guests',
          by: 'wren@test.example',
          plannedFor: null,
          state: 'running',
          total: 1,
        },
        ...{ looked: 0, touched: 0, refused: 0, changes: {}, startedAt: '2026-11-25T09:00:00Z', endedAt: null },
      },
    });
    const dialog = await pasted('Anna <anna@test.example>, nobody@test.example; anna@');
    expect(dialog).toHaveTextContent('2 addresses · not an address: anna@');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Look them up' }));
    expect(await within(dialog).findByRole('list', { name: /^Nobody has this address/ })).toHaveTextContent('nobody@test.example');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Put 1 person on' }));
    await waitFor(() =>
      expect(asked('POST /api/app/contacts/change').map(({ body }) => body)).toEqual([
        { of: 'contact', who: { contacts: ['id-1'] }, change: { lists: { guests: true } } },
      ]),
    );
    expect(await screen.findByText('1 person is put on Guests.')).toBeInTheDocument();
  });

  it('stay as they are where they cannot be looked up', async () => {
    openPage('/audiences/guests', { ...LIST, 'POST /api/app/contacts/find': new Refused(500, { title: 'They could not be looked up.' }) });
    const dialog = await pasted('anna@test.example');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Look them up' }));
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('They could not be looked up.');
    expect(within(dialog).getByRole('textbox')).toHaveValue('anna@test.example');
  });
});

describe('companies pasted onto a list', () => {
  const VISITS = definition(171, 'audience', 'visits', 'Visits', { kind: 'fixed', of: 'company' });
  const visits = {
    'GET /api/v1/audiences/visits': anAudience({ key: 'visits', name: 'Visits', kind: 'fixed', of: 'company', members: 0 }),
    'GET /api/v1/audiences/visits/members': { contacts: [], companies: [], after: null },
  };

  it('are put on by outside id or a name of their own; a name of several and one of none are shown', async () => {
    const { asked } = openPage(
      '/audiences/visits',
      {
        ...visits,
        'POST /api/app/companies/find': { known: [{ named: 'c-1', id: 'k-1', name: 'Mill' }], unknown: ['Nowhere'], several: ['Twins'] },
        'POST /api/app/contacts/change': {
          ...{
            id: 1,
            of: 'company',
            version: 0,
            what: 'put on the list Visits',
            by: 'wren@test.example',
            plannedFor: null,
            state: 'running',
          },
          ...{ total: 1, looked: 0, touched: 0, refused: 0, changes: {}, startedAt: '2026-11-25T09:00:00Z', endedAt: null },
        },
      },
      { more: [VISITS] },
    );
    const dialog = await pasted('c-1\n\n Nowhere \r\nTwins\nTwins');
    expect(dialog).toHaveTextContent('3 lines');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Look them up' }));
    expect(await within(dialog).findByRole('list', { name: /^No company goes by this/ })).toHaveTextContent('Nowhere');
    expect(within(dialog).getByRole('list', { name: /^More than one company/ })).toHaveTextContent('Twins');
    expect(asked('POST /api/app/companies/find')[0]?.body).toEqual({ named: ['c-1', 'Nowhere', 'Twins'] });
    await userEvent.click(within(dialog).getByRole('button', { name: 'Put 1 company on' }));
    await waitFor(() =>
      expect(asked('POST /api/app/contacts/change').map(({ body }) => body)).toEqual([
        { of: 'company', who: { companies: ['k-1'] }, change: { lists: { visits: true } } },
      ]),
    );
    expect(await screen.findByText('1 company is put on Visits.')).toBeInTheDocument();
  });

  it('are found by name one by one, put on and taken off', async () => {
    const mill = { id: 'k-1', outsideId: 'c-1', name: 'Mill', fields: [], scores: [], contacts: 2 };
    let members: object[] = [];
    const { asked } = openPage(
      '/audiences/visits',
      {
        ...visits,
        'GET /api/v1/audiences/visits/members': () => ({ contacts: [], companies: members, after: null }),
        'GET /api/app/companies': { companies: [mill], after: null },
        'PUT /api/v1/companies': () => {
          members = [mill];
          return { results: [{ index: 0, status: 'updated', company: 'k-1' }] };
        },
      },
      { more: [VISITS] },
    );
    expect(await screen.findByText('No company is on this list yet')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Put a company on …' }));
    await userEvent.click(await screen.findByRole('button', { name: 'Put on the list: Mill' }));
    expect(await screen.findByText('is on it now')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Done' }));
    expect(screen.queryByRole('dialog')).toBeNull();
    await userEvent.click(await screen.findByRole('button', { name: 'Take Mill off' }));
    expect(asked('PUT /api/v1/companies').map(({ body }) => body)).toEqual([
      { companies: [{ outsideId: 'c-1', lists: { visits: true } }] },
      { companies: [{ outsideId: 'c-1', lists: { visits: false } }] },
    ]);
    expect(await screen.findByText('Mill is off Visits.')).toBeInTheDocument();
  });
});
