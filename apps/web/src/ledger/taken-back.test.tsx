import { type TakeBackAnswer, type TakeBackRunView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, type SentRequest } from '../testing/page';

const run = (id: number, more: Partial<TakeBackRunView> = {}): TakeBackRunView => ({
  ...{ id, what: `what the rule Rule ${id} did`, by: 'wren@test.example', state: 'done', total: 900, done: 900 },
  ...{ signals: 0, effects: 1_800, stay: 0, error: null, startedAt: '2026-11-25T09:00:00Z', endedAt: '2026-11-25T09:01:00Z' },
  ...more,
});
const answer = (more: Partial<TakeBackAnswer> = {}): TakeBackAnswer => ({
  ...{ rehearsed: false, signals: 0, effects: 400, subjects: 200, changes: { 'tag removed': 200 }, samples: [], stays: [], stay: 0 },
  ...{ run: { id: 7, state: 'running', done: 200, total: 900, error: null } },
  ...more,
});
const LEDGER = { rows: [], after: null };

describe('what was taken back', () => {
  it('is listed with how far it came, and what goes on is stopped there', async () => {
    const { asked } = openPage('/ledger?show=taken-back', {
      'GET /api/app/ledger': LEDGER,
      'GET /api/app/take-backs': {
        runs: [
          run(3, { state: 'running', done: 200, endedAt: null }),
          run(2, { state: 'stopped', done: 400, stay: 2 }),
          run(1, { state: 'failed', done: 0, effects: 0, error: 'the disk is full' }),
        ],
      },
      'POST /api/app/take-backs/3/stop': {},
    });
    const list = await screen.findByRole('region', { name: 'What was taken back' });
    const rows = within(list).getAllByRole('row');
    expect(rows[0]).toHaveTextContent(/what the rule Rule 3 did by wren@test.example.*200 of 900/);
    expect(rows[1]).toHaveTextContent(/1,800 effects, 2 stayed.*stopped at 400 of 900/);
    expect(rows[2]).toHaveTextContent('failed at 0 of 900: the disk is full');
    await userEvent.click(within(list).getByRole('button', { name: 'Stop' }));
    await waitFor(() => expect(asked('POST /api/app/take-backs/3/stop')).toHaveLength(1));
  });

  it('says so where there is nothing', async () => {
    openPage('/ledger?show=taken-back', { 'GET /api/app/ledger': LEDGER, 'GET /api/app/take-backs': { runs: [] } });
    expect(await screen.findByText('Nothing has been taken back yet.')).toBeInTheDocument();
  });
});

describe('taking back what takes long', () => {
  const ROW = {
    ...{
      id: 1,
      at: '2026-11-25T09:00:00Z',
      contact: null,
      contactName: null,
      company: null,
      companyName: null,
      kind: 'tag',
      verb: 'added',
    },
    ...{ words: 'Tag glaze.ash added', thing: 'glaze.ash', thingName: 'ash', before: null, after: null },
    ...{ cause: { kind: 'person', ref: 'wren', words: 'by wren' }, rule: null, ruleVersion: null, parent: null },
  };
  const open = (later: TakeBackAnswer) =>
    openPage('/ledger?cause=person', {
      'GET /api/app/ledger': { rows: [ROW], after: null },
      'POST /api/app/ledger/take-back': ({ query }: SentRequest) =>
        query['rehearse'] === 'true' ? answer({ rehearsed: true, run: null }) : answer(),
      'GET /api/v1/take-backs/7': later,
      'POST /api/app/take-backs/7/stop': {},
    });
  const take = async (): Promise<HTMLElement> => {
    await userEvent.click(await screen.findByRole('button', { name: 'Take all of this back …' }));
    const dialog = await screen.findByRole('dialog');
    await userEvent.click(await within(dialog).findByRole('button', { name: 'Take back' }));
    return dialog;
  };

  it('says how far it is, and is stopped', async () => {
    const { asked } = open(answer());
    const dialog = await take();
    expect(await within(dialog).findByRole('progressbar', { name: 'Taking back' })).toHaveAttribute('value', '200');
    expect(dialog).toHaveTextContent('200 of 900');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Stop' }));
    await waitFor(() => expect(asked('POST /api/app/take-backs/7/stop')).toHaveLength(1));
  });

  it('says what it came to when it was stopped', async () => {
    open(answer({ run: { id: 7, state: 'stopped', done: 400, total: 900, error: null } }));
    const dialog = await take();
    expect(await within(dialog).findByText('Stopped at 400 of 900. The rest stands.')).toBeInTheDocument();
    expect(within(dialog).getByRole('button', { name: 'Close' })).toBeInTheDocument();
  });

  it('says why it did not go on', async () => {
    open(answer({ run: { id: 7, state: 'failed', done: 400, total: 900, error: 'The database is away' } }));
    expect(await within(await take()).findByRole('alert')).toHaveTextContent(
      'It stopped at 400 of 900: The database is away. Taking it back again does the rest.',
    );
  });
});
