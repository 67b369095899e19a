import { capabilities, type HookView, type ImportRehearsal } from '@eager-sieve/contracts';
import { fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';

const HOOK: HookView = {
  id: 4,
  name: 'The till',
  isOn: true,
  of: 'signal',
  signalType: 'order.placed',
  matchBy: 'email',
  mapping: { email: 'buyer.mail', 'detail:order': 'no' },
  url: 'https://sieve.example/in/abc',
  madeAt: '2026-05-01T10:00:00Z',
  lastAt: '2026-05-02T10:00:00Z',
  taken: 3,
  refused: 1,
  deliveries: [
    {
      at: '2026-05-02T10:00:00Z',
      state: 'refused',
      faults: [{ path: ['buyer.mail'], code: 'x', expected: 'the email address of a contact' }],
      body: { no: 7 },
    },
    { at: '2026-05-01T10:00:00Z', state: 'taken', faults: [], body: null },
  ],
};
const SAMPLE = '{"no": "T-1", "buyer": {"mail": "a@b.example", "born": "1990-12-24"}, "lines": [{"sku": "ash"}, {"sku": "tin"}]}';
const sample = (): HTMLElement => screen.getByLabelText('A sample of what it sends, as JSON');

/** What the page of intake asks when one comes there. */
const NOTHING = {
  'GET /api/app/stream': { rows: [], after: null },
  'GET /api/app/sources': [],
  'GET /api/app/set-aside': [],
  'GET /api/app/hooks': [],
};

describe('a webhook', () => {
  it('is made from a sample, each value of which is something', async () => {
    const { asked } = openPage('/intake/webhooks/new', {
      'POST /api/app/hooks': { id: 4, secret: 'whsec_c2VjcmV0' },
      'GET /api/app/hooks/4': HOOK,
    });
    const keep = await screen.findByRole('button', { name: 'Keep' });
    expect(keep).toBeDisabled();
    fireEvent.change(sample(), { target: { value: '{"no": ' } });
    expect(screen.getByText('This is no JSON object yet.')).toBeInTheDocument();
    fireEvent.change(sample(), { target: { value: SAMPLE } });
    await userEvent.click(screen.getByRole('button', { name: 'Guess the rest' }));
    await userEvent.selectOptions(screen.getByLabelText('Value no goes to'), 'order');
    expect(screen.getByText('ash · tin')).toBeInTheDocument();
    expect(screen.getByLabelText('Value lines goes to')).toHaveDisplayValue('leave out');
    await userEvent.type(screen.getByLabelText('Name'), 'The till');
    await userEvent.click(keep);
    expect(await screen.findByText('whsec_c2VjcmV0')).toBeInTheDocument();
    expect(asked('POST /api/app/hooks')[0]?.body).toMatchObject({
      name: 'The till',
      signalType: 'order.placed',
      mapping: { email: 'buyer.mail', 'field:birthday': 'buyer.born', 'detail:order': 'no', 'detail:items.product': 'lines[].sku' },
    });
  });

  it('shows what was sent, and takes any of it as the sample', async () => {
    openPage('/intake/webhooks/4', { 'GET /api/app/hooks/4': HOOK });
    expect(await screen.findByText(/3 times taken in, 1 time refused/)).toBeInTheDocument();
    expect(screen.getByText(/refused: buyer.mail: needs the email address of a contact/)).toBeInTheDocument();
    expect(sample()).toHaveValue('{\n  "no": 7\n}');
    fireEvent.change(sample(), { target: { value: '' } });
    // What is read of it stands there although the sample is gone.
    expect(screen.getByLabelText('Value buyer.mail goes to')).toHaveDisplayValue('email address');
    await userEvent.click(screen.getByRole('button', { name: 'Take it as the sample' }));
    expect(sample()).toHaveValue('{\n  "no": 7\n}');
  });

  it('says why it is not kept, and loses nothing', async () => {
    openPage('/intake/webhooks/4', {
      'GET /api/app/hooks/4': HOOK,
      'PUT /api/app/hooks/4': new Refused(422, { title: 'A column for the email address is missing.' }),
    });
    await userEvent.selectOptions(await screen.findByLabelText('Value no goes to'), 'leave out');
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('A column for the email address is missing.');
    expect(screen.getByLabelText('Value no goes to')).toHaveDisplayValue('leave out');
  });

  it('is tried with a sample: what would come of it, or why it would be refused', async () => {
    const whole = { rows: 1, joined: 0, isWhole: true, created: 1, changed: 0, unchanged: 0, faulty: 0, error: null, faults: [] };
    const REHEARSE = 'POST /api/app/hooks/rehearse';
    let said: ImportRehearsal = {
      ...whole,
      samples: [{ row: 1, contact: null, name: 'ida@b.example', isNew: true, changes: ['Tag glaze.ash added'] }],
    };
    openPage('/intake/webhooks/4', { 'GET /api/app/hooks/4': HOOK, [REHEARSE]: () => said });
    const rehearse = await screen.findByRole('button', { name: 'Rehearse the sample' });
    await userEvent.click(rehearse);
    expect(await screen.findByText(/It would be taken in, for/)).toHaveTextContent('for ida@b.example: a new contact; Tag glaze.ash added');
    said = {
      ...whole,
      created: 0,
      faulty: 1,
      samples: [],
      faults: [{ row: 1, faults: [{ path: ['data', 'amount'], code: 'x', expected: 'a number' }] }],
    };
    await userEvent.click(rehearse);
    expect(await screen.findByText('It would be refused: amount: needs a number')).toBeInTheDocument();
  });

  it('gets another secret only when somebody is sure', async () => {
    const RENEW = 'POST /api/app/hooks/5/secret';
    const { asked } = openPage('/intake/webhooks/5', { 'GET /api/app/hooks/5': { ...HOOK, id: 5 }, [RENEW]: { secret: 'whsec_bmV3' } });
    await userEvent.click(await screen.findByRole('button', { name: /Make another secret/ }));
    await userEvent.click(screen.getByRole('button', { name: 'Leave it' }));
    expect(asked(RENEW)).toEqual([]);
    await userEvent.click(screen.getByRole('button', { name: /Make another secret/ }));
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText('whsec_bmV3')).toBeInTheDocument();
  });

  it('is removed when somebody is sure', async () => {
    const { asked } = openPage('/intake/webhooks/4', {
      'GET /api/app/hooks/4': HOOK,
      'DELETE /api/app/hooks/4': () => undefined,
      ...NOTHING,
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Remove …' }));
    const sure = within(screen.getByRole('group', { name: /What came through it stays/ }));
    expect(asked('DELETE /api/app/hooks/4')).toEqual([]);
    await userEvent.click(sure.getByRole('button', { name: 'Remove it' }));
    expect(asked('DELETE /api/app/hooks/4')).toHaveLength(1);
  });

  it('is only looked at by who may not change settings', async () => {
    openPage(
      '/intake/webhooks/4',
      { 'GET /api/app/hooks/4': HOOK },
      {
        may: capabilities.filter((each) => each !== 'settings:write'),
      },
    );
    expect(await screen.findByText(/3 times taken in/)).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Keep' })).not.toBeInTheDocument();
    expect(screen.queryByRole('button', { name: /Make another secret/ })).not.toBeInTheDocument();
  });
});
