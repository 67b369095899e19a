import { type Duplicates } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';
import { contactView } from '../testing/people';

const person = (n: number) => ({
  ...{ id: `01890000-0000-7000-8000-00000000000${n}`, name: `Person ${n}`, email: `p${n}@test.example` },
  ...{ company: null, added: '2026-05-01T08:00:00Z' },
});
const pair = (a: number, b: number, isCertain: boolean): Duplicates['pairs'][number] => ({
  ...{ contacts: [person(a), person(b)], points: isCertain ? 90 : 45, isCertain },
  alike: isCertain ? ['mailbox', 'name'] : ['phone'],
});
const field = (key: string, name: string, shown: string) => ({ key, name, shown, value: shown });
const VIEWS = {
  'GET /api/v1/contacts/:id': ({ path }: { path: string }) => {
    const n = Number(path.slice(-1));
    return contactView({
      ...person(n),
      fields: [field('city', 'city', n === 1 ? 'Oakham' : 'Mill End'), ...(n === 2 ? [field('years', 'years at the wheel', '4')] : [])],
    });
  },
};

describe('contacts that may be one person', () => {
  it('are compared side by side, merged with a choice per fact, and can be parted at once', async () => {
    const { asked } = openPage('/people/duplicates', {
      ...VIEWS,
      'GET /api/app/duplicates': { all: 1, certain: 0, pairs: [pair(1, 2, false)] },
      [`POST /api/v1/contacts/${person(1).id}/merge`]: { merge: 9, contact: person(1).id },
      'PUT /api/v1/contacts': { results: [{ index: 0, status: 'updated', contact: person(1).id }] },
      'POST /api/v1/merges/9/take-back': {},
    });
    const row = await screen.findByRole('listitem');
    expect(row).toHaveTextContent('the same phone');
    await userEvent.click(within(row).getByRole('button', { name: 'Compare …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.click(await within(dialog).findByRole('radio', { name: 'city: Mill End' }));
    expect(within(dialog).queryByRole('radio', { name: /years at the wheel/ })).toBeNull();
    await userEvent.click(within(dialog).getByRole('button', { name: 'Merge into Person 1' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/contacts').map(({ body }) => body)).toEqual([
        { matchBy: 'id', contacts: [{ id: person(1).id, fields: { city: 'Mill End' } }] },
      ]),
    );
    expect(asked(`POST /api/v1/contacts/${person(1).id}/merge`).map(({ body }) => body)).toEqual([{ other: person(2).id }]);
    await userEvent.click(await screen.findByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(asked('POST /api/v1/merges/9/take-back')).toHaveLength(1));
  });

  it('are said to be two', async () => {
    const { asked } = openPage('/people/duplicates', {
      'GET /api/app/duplicates': { all: 1, certain: 0, pairs: [pair(1, 2, false)] },
      'POST /api/app/duplicates/apart': {},
    });
    await userEvent.click(await screen.findByRole('button', { name: 'They are two' }));
    await waitFor(() =>
      expect(asked('POST /api/app/duplicates/apart').map(({ body }) => body)).toEqual([{ a: person(1).id, b: person(2).id }]),
    );
    expect(await screen.findByText('Person 1 and Person 2 are two people from now on.')).toBeInTheDocument();
  });

  it('are merged one after another where they are certain, each into the one that stands', async () => {
    const { asked } = openPage('/people/duplicates', {
      'GET /api/app/duplicates': { all: 4, certain: 3, pairs: [pair(1, 2, true), pair(2, 3, true), pair(1, 3, true), pair(4, 5, false)] },
      'POST /api/v1/contacts/:id/merge': { merge: 9, contact: person(1).id },
      [`POST /api/v1/contacts/${person(1).id}/merge`]: { merge: 9, contact: person(1).id },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Merge the 3 certain ones …' }));
    await userEvent.click(within(screen.getByRole('dialog')).getByRole('button', { name: 'Merge 3' }));
    expect(await screen.findByText('2 merged. Each can be parted again on its page.')).toBeInTheDocument();
    expect(asked(`POST /api/v1/contacts/${person(1).id}/merge`).map(({ body }) => body)).toEqual([
      { other: person(2).id },
      { other: person(3).id },
    ]);
  });

  it('stop where one is refused, and say so', async () => {
    openPage('/people/duplicates', {
      'GET /api/app/duplicates': { all: 1, certain: 1, pairs: [pair(1, 2, true)] },
      [`POST /api/v1/contacts/${person(1).id}/merge`]: new Refused(409, { title: 'One of them is gone.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Merge the 1 certain one …' }));
    await userEvent.click(within(screen.getByRole('dialog')).getByRole('button', { name: 'Merge 1' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('One of them is gone.');
  });

  it('say where nobody is here twice', async () => {
    openPage('/people/duplicates', { 'GET /api/app/duplicates': { all: 0, certain: 0, pairs: [] } });
    expect(await screen.findByText('Nobody is here twice')).toBeInTheDocument();
  });
});
