import { type AnyDefinition } from '@eager-sieve/core';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const stage = (id: number, name: string, body: object = {}) =>
  definition(id, 'stage', name.replaceAll(' ', '-'), name, { position: id, ...body });
const PIPELINE = definition(180, 'pipeline', 'sales', 'Sales', {
  stages: [
    { key: 'asked', name: 'asked' },
    { key: 'won', name: 'won', outcome: 'won' },
  ],
});
const STATUS = definition(183, 'field', 'status', 'status with sales', {
  of: 'contact',
  type: 'one choice',
  options: ['talks', 'signed'].map((key) => ({ key, name: key })),
});
const MORE = [PIPELINE, stage(181, 'met'), stage(182, 'agreed', { inOrder: true, needs: { kind: 'tag', tag: 3, op: 'has' } })];
const SAVED = { made: [], changed: ['stage agreed'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };

describe('the stages of the ladder', () => {
  const open = (others: readonly AnyDefinition[] = []) =>
    openPage('/settings/stages', { 'PUT /api/v1/definitions': SAVED }, { more: [...MORE, ...others] });
  const rowOf = async (name: string): Promise<HTMLElement> => (await screen.findByDisplayValue(name)).closest('li') as HTMLElement;

  it('say who comes to them', async () => {
    open();
    expect(within(await rowOf('agreed')).getByText('only from met, only if they have the tag glaze.ash')).toBeInTheDocument();
    expect(within(await rowOf('met')).getByText('anybody, from any stage')).toBeInTheDocument();
  });

  it('go with the stages of deals, and keep what was said of them', async () => {
    const { asked } = open();
    const row = await rowOf('agreed');
    await userEvent.click(within(row).getByRole('button', { name: /^only from met/ }));
    await userEvent.click(within(row).getByRole('checkbox', { name: 'won' }));
    await userEvent.click(within(row).getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
      ladder: [
        {
          ...{ key: 'agreed', name: 'agreed', position: 182, inOrder: true },
          ...{ needs: { kind: 'tag', tag: 'glaze.ash', op: 'has' }, deals: [{ pipeline: 'sales', stage: 'won' }] },
        },
      ],
    });
  });

  it('go with what a fact says, as sellers set it', async () => {
    const { asked } = open([STATUS]);
    const row = await rowOf('agreed');
    await userEvent.click(within(row).getByRole('button', { name: /^only from met/ }));
    await userEvent.selectOptions(within(row).getByLabelText('Another fact'), 'status with sales');
    await userEvent.click(within(within(row).getByRole('group', { name: 'status with sales' })).getByLabelText('signed'));
    await userEvent.click(within(row).getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      ladder: [{ key: 'agreed', facts: [{ field: 'status', value: 'signed' }] }],
    });
  });

  it('lose nothing of that when they are renamed or moved', async () => {
    const { asked } = open();
    const row = await rowOf('agreed');
    await userEvent.click(within(row).getByRole('button', { name: 'agreed up' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const { ladder } = asked('PUT /api/v1/definitions')[0]?.body as { ladder: { key: string; inOrder?: boolean; needs?: object }[] };
    expect(ladder.find(({ key }) => key === 'agreed')).toMatchObject({ inOrder: true, needs: { tag: 'glaze.ash' } });
    const name = within(row).getByDisplayValue('agreed');
    await userEvent.clear(name);
    await userEvent.type(name, 'settled{Tab}');
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(2));
    expect(asked('PUT /api/v1/definitions')[1]?.body).toMatchObject({ ladder: [{ key: 'agreed', name: 'settled', inOrder: true }] });
  });
});
