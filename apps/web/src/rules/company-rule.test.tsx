import { type AnyDefinition } from '@eager-sieve/core';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage } from '../testing/page';

const definition = (id: number, kind: string, key: string, name: string, body: object) =>
  ({ id, kind, key, name, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;
const options = [
  { key: 'a', name: 'A' },
  { key: 'b', name: 'B' },
];
const more = [
  definition(805, 'audience', 'visits', 'Visits', { kind: 'fixed', of: 'company' }),
  definition(801, 'field', 'fit-grade', 'Fit grade', { of: 'company', type: 'one choice', options }),
  definition(802, 'field', 'renews', 'Renews', { of: 'company', type: 'date' }),
];
const PART = definition(803, 'field', 'part', 'part in the purchase', {
  of: 'contact',
  type: 'one choice',
  options: ['user', 'buyer'].map((key) => ({ key, name: key })),
});
const REHEARSAL: RuleRehearsal = {
  steps: [{ words: 'would be touched', count: 1 }],
  touched: 1,
  changes: { 'field set': 1 },
  samples: [{ id: 'k1', name: 'The mill', changes: ['Fit grade set to B'], setsOff: [] }],
  pace: null,
  everyone: false,
  work: null,
};
const chosen = (label: string): readonly string[] =>
  within(screen.getByLabelText(label))
    .getAllByRole('option')
    .map((option) => option.textContent);

describe('a rule for companies', () => {
  it('is made by saying for whom it is, offers what can be done to a company, and is rehearsed and kept as that', async () => {
    const { asked } = openPage(
      '/rules/new',
      {
        'POST /api/app/rules/rehearse': REHEARSAL,
        'PUT /api/v1/definitions': { made: ['rule fit'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
      },
      { more },
    );
    await userEvent.type(await screen.findByLabelText('Name of the rule'), 'Fit');
    await userEvent.selectOptions(screen.getByLabelText('For whom it is'), 'companies');
    expect(screen.getByText(/^As soon as a company is there/)).toBeInTheDocument();
    expect(chosen('What sets it off')).toEqual(['… conditions become true', '… it is run, by hand or at its times', '… a date comes']);
    expect(chosen('What action 1 does')).toEqual([
      'add tag to its contacts',
      'remove tag from its contacts',
      'set field of its contacts',
      'set field',
      'clear field',
      'increase field',
      'put on list',
      'take off list',
      'set the stage of its contacts',
      'assign an owner to its contacts',
      'make task',
      'notify',
    ]);
    await userEvent.selectOptions(screen.getByLabelText('What action 1 does'), 'set company field');
    await userEvent.selectOptions(screen.getByLabelText('Field of action 1'), 'Fit grade');
    await userEvent.selectOptions(screen.getByLabelText('Value of action 1'), 'B');
    await userEvent.click(screen.getByRole('button', { name: '+ action' }));
    await userEvent.selectOptions(screen.getByLabelText('What action 2 does'), 'put on list');
    const lists = within(screen.getByLabelText('List of action 2'));
    expect(lists.getByRole('option', { name: 'Guests: its contacts' })).toBeInTheDocument();
    expect(lists.getByRole('option', { name: 'Visits: the company itself' })).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('List of action 2'), 'Guests: its contacts');
    await userEvent.click(screen.getByRole('button', { name: /Rehearse/ }));
    const rehearsal = await screen.findByRole('region', { name: 'Rehearsal' });
    expect(within(rehearsal).getByRole('columnheader', { name: 'Company' })).toBeInTheDocument();
    expect(within(rehearsal).getByRole('link', { name: 'The mill' })).toHaveAttribute('href', '/people/companies/k1');
    await userEvent.click(screen.getByRole('button', { name: 'Turn on' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      rules: [
        {
          of: 'company',
          when: { kind: 'becomes' },
          then: [
            { do: 'set company field', field: 'fit-grade', value: 'b' },
            { do: 'put on list', audience: 'guests' },
          ],
          on: true,
        },
      ],
    });
  });

  it('stays one once it is there', async () => {
    const rule = definition(804, 'rule', 'fit', 'Fit', {
      of: 'company',
      when: { kind: 'date', field: 802, days: 0, yearly: true, hour: 9 },
      then: [{ do: 'notify', text: 'It renews' }],
      howOften: { limit: 1 },
      beginsWith: 'everyone',
      maxAgeDays: 7,
      position: 1,
      on: true,
    });
    openPage('/rules/fit', {}, { more: [...more, rule] });
    expect(await screen.findByText('companies')).toBeInTheDocument();
    expect(screen.queryByLabelText('For whom it is')).not.toBeInTheDocument();
    expect(
      screen.getByText(/On every anniversary of Renews, at 09:00, notify everyone here: “It renews”\. Once per company\./),
    ).toBeInTheDocument();
    expect(screen.getByText('times per company, with a pause of')).toBeInTheDocument();
  });

  it('is done to all of its contacts, or to those with a part in the purchase', async () => {
    const { asked } = openPage(
      '/rules/new',
      {
        'POST /api/app/rules/rehearse': REHEARSAL,
        'PUT /api/v1/definitions': { made: ['rule tell'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
      },
      { more: [...more, PART] },
    );
    await userEvent.type(await screen.findByLabelText('Name of the rule'), 'Tell');
    await userEvent.selectOptions(screen.getByLabelText('For whom it is'), 'companies');
    await userEvent.selectOptions(screen.getByLabelText('What action 1 does'), 'add tag to its contacts');
    expect(chosen('Which contacts of action 1')).toEqual(['all', 'those whose part is']);
    await userEvent.selectOptions(screen.getByLabelText('Which contacts of action 1'), 'those whose part is');
    const parts = within(screen.getByRole('group', { name: 'Parts of action 1' }));
    await userEvent.click(parts.getByLabelText('buyer'));
    await userEvent.click(parts.getByLabelText('user'));
    // The last part stays, and another tag keeps whom it is for.
    await userEvent.click(parts.getByLabelText('buyer'));
    expect(parts.getByLabelText('buyer')).toBeChecked();
    await userEvent.selectOptions(screen.getByLabelText('Tag of action 1'), 'glaze.ash');
    await userEvent.click(screen.getByRole('button', { name: /Rehearse/ }));
    await screen.findByRole('region', { name: 'Rehearsal' });
    await userEvent.click(screen.getByRole('button', { name: 'Turn on' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      rules: [{ of: 'company', then: [{ do: 'add tag', tag: 'glaze.ash', parts: ['buyer'] }] }],
    });
  });
});
