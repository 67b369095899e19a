import { type TakeBackAnswer, type TakeBackRunView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, type SentRequest } from '../testing/page';

const run = (id: number, more: Partial<TakeBackRunView> = {}): TakeBackRunView => ({
  ...{ id, what: `what the rule Rule ${id} did`, by: 'wren@test.example', state: 'done', total: 900, done: 900 },
  ...{
    signals: 0,
    effects: 1_800,
    stay: 0,
    error: null,
    again: false,
    reversible: false,
    startedAt: '2026-11-25T09:00:00Z',
    endedAt: '2026-11-25T09:01:00Z',
  },
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

  it('is done again after a rehearsal, and that is taken back in turn', async () => {
    const rehearsed = answer({ rehearsed: true, changes: { 'tag added': 200 }, run: null });
    let isDone = false;
    const { asked } = openPage('/ledger?show=taken-back', {
      'GET /api/app/ledger': LEDGER,
      'GET /api/app/take-backs': () => ({
        runs: [run(9, { again: true, reversible: true }), run(8, { reversible: !isDone }), run(7)],
      }),
      'POST /api/app/take-backs/8/take-back': ({ query }: SentRequest) => {
        isDone = query['rehearse'] === 'false';
        return isDone ? answer({ run: { id: 10, state: 'done', done: 400, total: 400, error: null } }) : rehearsed;
      },
    });
    const rows = within(await screen.findByRole('region', { name: 'What was taken back' })).getAllByRole('row');
    expect(rows[0]).toHaveTextContent('Done again: what the rule Rule 9 did');
    expect(within(rows[0] as HTMLElement).getByRole('button', { name: 'Take back' })).toBeInTheDocument();
    expect(within(rows[2] as HTMLElement).queryByRole('button')).toBeNull();
    await userEvent.click(within(rows[1] as HTMLElement).getByRole('button', { name: 'Do it again' }));
    const dialog = await screen.findByRole('dialog');
    expect(await within(dialog).findByText(/would be done again on 200 people: 200 tags added/)).toBeInTheDocument();
    await userEvent.click(within(dialog).getByRole('button', { name: 'Do it again' }));
    expect(await within(dialog).findByText(/400 effects done again on 200 people/)).toBeInTheDocument();
    // What came of it is to be read, though the row has no such button any more.
    await waitFor(() => expect(within(rows[1] as HTMLElement).queryByRole('button', { name: 'Do it again', hidden: true })).toBeNull());
    expect(within(dialog).getByText(/400 effects done again/)).toBeInTheDocument();
    expect(asked('POST /api/app/take-backs/8/take-back').map(({ query }) => query['rehearse'])).toEqual(['true', 'false']);
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
    expect(await within(dialog).findByRole('progressbar', { name: 'Taking back …' })).toHaveAttribute('value', '200');
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
      'It stopped at 400 of 900: The database is away. Beginning once more does the rest.',
    );
  });
});
