import { type Ledger, type LedgerDays } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const rule = (id: number, key: string, on = true) =>
  definition(id, 'rule', key, `Rule ${key}`, {
    of: 'contact',
    when: { kind: 'becomes', condition: { kind: 'tag', tag: 3, op: 'has' } },
    then: [{ do: 'add tag', tag: 4 }],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: id,
    on,
  });
const ago = (days: number): string => new Date(Date.now() - days * 86_400_000).toISOString();

describe('the rules', () => {
  it('each say how often they ran, and which never did', async () => {
    const figures = {
      rules: [
        { key: 'a', fired: 12, refused: 1, lastAt: ago(2) },
        { key: 'b', fired: 0, refused: 0, lastAt: ago(40) },
        { key: 'c', fired: 0, refused: 0, lastAt: null },
      ],
    };
    openPage('/rules', { 'GET /api/app/rules/figures': figures }, { more: [rule(170, 'a'), rule(171, 'b'), rule(172, 'c')] });
    expect(await screen.findByText(/^12 times in 30 days, last/)).toHaveTextContent('not again 1 time');
    expect(screen.getByText(/^not in the last 30 days, last/)).toBeInTheDocument();
    expect(screen.getByText('never ran')).toHaveClass('text-error');
  });

  it('can begin with one that is nearly ready, which is changed like any other', async () => {
    openPage('/rules/new', {});
    await userEvent.selectOptions(await screen.findByLabelText(/^Begin with one that is nearly ready/), 'refund');
    expect(screen.getByLabelText('Name of the rule')).toHaveValue('Ask why something came back');
    expect(
      screen.getByText('When somebody is refunded, make the task “Ask what was wrong”, due in a day. Every time.'),
    ).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText(/^Begin with one that is nearly ready/), 'nobody-minds');
    expect(screen.getByText(/^Every Monday at 09:00, where they have ordered and /)).toBeInTheDocument();
  });

  it('lead to what each did, by day and one by one', async () => {
    const days: LedgerDays = { days: [{ day: '2026-11-25', effects: 3 }], rules: [] };
    const row: Ledger['rows'][number] = {
      ...{ id: 5, at: ago(1), contact: 'c1', contactName: 'Noor Skov', company: null, companyName: null },
      ...{
        kind: 'tag',
        verb: 'added',
        words: 'Tag glaze.celadon added',
        thing: 'glaze.celadon',
        thingName: 'glaze.celadon',
        before: null,
        after: null,
      },
      ...{ cause: { kind: 'clock', ref: null, words: 'the clock' }, rule: 'Rule a', ruleVersion: 1, parent: null },
    };
    openPage(
      '/rules/a',
      {
        'GET /api/app/rules/a/circle': { circle: null },
        'GET /api/app/rules/a/sweeps': { runs: [], nextAt: null },
        'GET /api/app/ledger/days': days,
        'GET /api/app/ledger': { rows: [row], after: null },
      },
      { more: [rule(170, 'a')] },
    );
    const did = await screen.findByRole('region', { name: 'What it did' });
    await userEvent.click(within(did).getByRole('button', { name: 'what it did' }));
    expect(await within(did).findByText('Tag glaze.celadon added')).toBeInTheDocument();
    expect(within(did).getByRole('img', { name: /Effects by the day/ })).toBeInTheDocument();
    expect(within(did).getByRole('link', { name: 'All of it in the ledger' })).toHaveAttribute('href', '/ledger?about=rule%2Fa');
  });
});
