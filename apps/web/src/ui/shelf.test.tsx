import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { anAudience } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const rule = (id: number, name: string, more: object) =>
  definition(id, 'rule', name.toLowerCase(), name, {
    of: 'contact',
    when: { kind: 'becomes', condition: { match: 'all', of: [] } },
    then: [{ do: 'notify', text: 'Look' }],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: id,
    on: false,
    ...more,
  });
const more = [
  rule(700, 'Winter', { folder: 'Seasons', labels: ['shop', 'cold'] }),
  rule(701, 'Summer', { folder: 'Seasons', labels: ['shop'] }),
  rule(702, 'Alone', {}),
];

describe('folders and labels', () => {
  it('put a list in order, and narrow it', async () => {
    openPage('/rules', {}, { more });
    const seasons = await screen.findByRole('region', { name: 'Seasons' });
    expect(
      within(seasons)
        .getAllByRole('listitem')
        .map((item) => within(item).getByRole('link').textContent),
    ).toEqual(['Winter', 'Summer']);
    expect(within(seasons).queryByRole('link', { name: 'Alone' })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'cold' }));
    expect(screen.queryByRole('link', { name: 'Summer' })).not.toBeInTheDocument();
    expect(screen.queryByRole('link', { name: 'Alone' })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'cold' }));
    expect(screen.getByRole('link', { name: 'Alone' })).toBeInTheDocument();
  });

  it('are written on the page of a definition', async () => {
    const { asked } = openPage(
      '/rules/alone',
      { 'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false } },
      { more },
    );
    await userEvent.click(await screen.findByText('Folder, labels and description'));
    await userEvent.type(screen.getByLabelText('Folder'), 'Seasons');
    await userEvent.type(screen.getByLabelText('Labels, with commas'), 'cold, shop ');
    await userEvent.type(screen.getByLabelText('Description'), 'For the cold months.');
    await userEvent.click(screen.getByRole('button', { name: 'Keep, off' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      rules: [{ key: 'alone', folder: 'Seasons', labels: ['cold', 'shop'], description: 'For the cold months.' }],
    });
  });

  it('are joined for an audience by the sellers who are shown it', async () => {
    const aList = definition(703, 'audience', 'callers', 'Callers', { kind: 'fixed', of: 'contact' });
    const { asked } = openPage(
      '/audiences/callers',
      {
        'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
        'GET /api/v1/audiences/callers': anAudience({ key: 'callers', kind: 'fixed' }),
        'GET /api/v1/audiences/callers/members': { contacts: [], after: null },
        'GET /api/app/people/names': ['North', 'South', 'North', null].map((team, n) => ({
          email: `p${n}@test.example`,
          name: `P${n}`,
          team,
        })),
      },
      { more: [aList] },
    );
    await userEvent.click(await screen.findByText('Folder, team, labels and description'));
    const teams = await screen.findByLabelText('Which sellers see it');
    await waitFor(() =>
      expect(
        within(teams)
          .getAllByRole('option')
          .map((each) => each.textContent),
      ).toEqual(['all sellers', 'only those of North', 'only those of South']),
    );
    await userEvent.selectOptions(teams, 'South');
    expect(screen.getByText(/It is kept to the team South\./)).toBeInTheDocument();
    await userEvent.selectOptions(teams, '');
    expect(screen.queryByText(/It is kept to the team/)).not.toBeInTheDocument();
    await userEvent.selectOptions(teams, 'South');
    await userEvent.click(screen.getByRole('button', { name: 'Keep changes' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ audiences: [{ key: 'callers', team: 'South' }] });
  });
});
