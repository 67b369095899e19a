import { type RoutingRehearsal } from '@eager-sieve/contracts';
import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const [WREN, SOL] = ['wren@test.example', 'sol@test.example'];
const desk = (more: object = {}) =>
  definition(172, 'routing', 'trade', 'Trade', {
    rows: [
      { key: 'tagged', if: { kind: 'tag', tag: 3, op: 'has' }, owners: [WREN] },
      { key: 'rest', owners: [WREN, SOL] },
    ],
    ...more,
  });
const REHEARSED: RoutingRehearsal = {
  days: 30,
  contacts: 9,
  more: false,
  nobody: 2,
  rows: [
    { key: 'tagged', contacts: 3 },
    { key: 'rest', contacts: 4 },
  ],
  people: [
    { who: WREN, contacts: 5, most: 2 },
    { who: SOL, contacts: 2, most: 1 },
  ],
};
const SAVED = { made: [], changed: ['routing trade'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };

describe('a routing table', () => {
  it('keeps shares, limits and who is away, and writes nothing down of who takes turns like everybody', async () => {
    const { asked } = openPage('/rules/routing/trade', { 'PUT /api/v1/definitions': SAVED }, { more: [desk()] });
    const turns = within(await screen.findByRole('region', { name: 'Turns' }));
    const [first, second] = turns.getAllByRole('row').slice(1) as [HTMLElement, HTMLElement];
    fireEvent.change(within(first).getByLabelText(/^Turns of/), { target: { value: '3' } });
    fireEvent.change(within(second).getByLabelText(/a day at most/), { target: { value: '5' } });
    fireEvent.change(within(second).getByLabelText(/is back/), { target: { value: '2026-12-12' } });
    fireEvent.change(within(second).getByLabelText(/a day at most/), { target: { value: '' } });
    await userEvent.click(screen.getByRole('checkbox', { name: 'has a task' }));
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const body = asked('PUT /api/v1/definitions')[0]?.body as { routing: [{ people: object[]; task: object; notice?: string }] };
    expect(body.routing[0].people).toEqual([
      { who: WREN, share: 3 },
      { who: SOL, share: 1, backOn: '2026-12-12' },
    ]);
    expect(body.routing[0].task).toEqual({ title: 'Say hello', dueDays: 1 });
    expect(body.routing[0]).not.toHaveProperty('notice');
  });

  it('says who would have got how many, and how many nobody', async () => {
    const { asked } = openPage('/rules/routing/trade', { 'POST /api/app/routing/rehearse': REHEARSED }, { more: [desk()] });
    await userEvent.click(await screen.findByRole('button', { name: /^Rehearse/ }));
    const region = screen.getByRole('region', { name: 'Rehearsal' });
    expect(await within(region).findByText(/9 people/)).toBeInTheDocument();
    expect(within(region).getByText('at most 2 a day')).toBeInTheDocument();
    expect(region).toHaveTextContent('2 people would have had no owner: no row fits, or nobody in it is free.');
    expect(asked('POST /api/app/routing/rehearse')[0]?.body).toMatchObject({ key: 'trade', who: 'handed out' });
    fireEvent.change(screen.getAllByLabelText(/^Turns of/)[0] as HTMLElement, { target: { value: '2' } });
    expect(region).toHaveTextContent('by the table before your last change');
  });

  it('gives to the people of a team, too, who then have turns of their own', async () => {
    const { asked } = openPage(
      '/rules/routing/trade',
      {
        'PUT /api/v1/definitions': SAVED,
        'GET /api/app/people/names': [
          { email: WREN, name: 'Wren', team: null },
          { email: 'dee@test.example', name: 'Dee', team: 'Harbour' },
        ],
      },
      { more: [desk()] },
    );
    expect(screen.queryByText('Dee')).toBeNull();
    await userEvent.selectOptions(await screen.findByLabelText('Team of row 2'), 'Harbour');
    expect(await screen.findByRole('row', { name: /^Dee/ })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
        routing: [{ rows: [{ key: 'tagged' }, { key: 'rest', owners: [WREN, SOL], team: 'Harbour' }] }],
      }),
    );
  });
});
