import { builtInSignalTypes } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const SEND = 'POST /api/v1/signals';
const PLAY = { 'GET /api/app/play': { isOffered: false, types: [], running: null, played: 0 } };
const took = { accepted: 1, duplicates: 0, rejected: [], changed: [] };

describe('the stand-ins', () => {
  it('let somebody made up take goods off the shelves and pay for them', async () => {
    const { asked } = openPage('/intake/stand-ins', { ...PLAY, [SEND]: took });
    const who = await screen.findByLabelText(/Somebody made up/);
    await userEvent.type(who, 'ida@real.com');
    await userEvent.click(screen.getByRole('button', { name: 'Add Iron oxide' }));
    expect(screen.getByRole('button', { name: 'Order' })).toBeDisabled();
    expect(screen.getByText(/Say above who it is/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Put Iron oxide back' }));
    await userEvent.clear(who);
    await userEvent.type(who, 'ida@place.example');
    expect(screen.getByText(/Nothing yet/)).toBeInTheDocument();
    const order = screen.getByRole('button', { name: 'Order' });
    expect(order).toBeDisabled();
    await userEvent.type(screen.getByLabelText('Look for goods'), 'ash');
    await userEvent.click(screen.getByRole('button', { name: 'Add Ash glaze 1 l' }));
    await userEvent.clear(screen.getByLabelText('Look for goods'));
    await userEvent.click(screen.getByRole('button', { name: 'Add Iron oxide' }));
    await userEvent.click(screen.getByRole('button', { name: 'Add Iron oxide' }));
    await userEvent.click(screen.getByRole('button', { name: 'Add Kick wheel' }));
    await userEvent.click(screen.getByRole('button', { name: 'Put Kick wheel back' }));
    expect(screen.getByText('800 SEK')).toBeInTheDocument();
    await userEvent.click(order);
    expect(await screen.findByRole('link', { name: 'See what it did' })).toHaveAttribute('href', '/people/ida@place.example');
    expect(asked(SEND)[0]?.body).toMatchObject({
      source: 'shop',
      type: 'order.placed',
      subject: 'ida@place.example',
      data: {
        order: expect.stringMatching(/^T-/) as string,
        items: [
          { product: 'Ash glaze 1 l', line: 'glaze', quantity: 1, amount: 520 },
          { product: 'Iron oxide', line: 'glaze', quantity: 2, amount: 280 },
        ],
        amount: 800,
        currency: 'SEK',
      },
    });
    // The next one begins with nothing, and under another number.
    expect(screen.getByText(/Nothing yet/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Add Iron oxide' }));
    await userEvent.click(order);
    const numbers = asked(SEND).map(({ body }) => (body as { data: { order: string } }).data.order);
    expect(new Set(numbers).size).toBe(2);
  });

  it('give an order back as it came, each once', async () => {
    const item = { product: 'Kick wheel', line: 'wheels', quantity: 1, amount: 14_900 };
    const order = (id: string, type = 'order.placed') => ({
      ...{ id: Number(id), type, typeName: type, verb: 'ordered', time: '2026-11-20T10:00:00Z', receivedAt: '2026-11-20T10:00:00Z' },
      ...{
        source: 'shop',
        senderId: id,
        summary: `Order ${id}`,
        data: { order: id, items: [item], amount: 14_900, currency: 'SEK' },
        did: [],
      },
    });
    const signals = [order('3', 'order.refunded'), order('3'), order('7')];
    const { asked } = openPage('/intake/stand-ins', {
      ...PLAY,
      [SEND]: took,
      'GET /api/v1/contacts/ida%40place.example/signals': { signals, after: null },
    });
    await userEvent.selectOptions(await screen.findByLabelText('What they do'), 'was refunded');
    expect(screen.getByText('Say whose order it was.')).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText(/Somebody made up/), 'ida@place.example');
    const choices = await screen.findAllByRole('radio');
    expect(choices).toHaveLength(1);
    expect(screen.getByRole('button', { name: 'Refund' })).toBeDisabled();
    await userEvent.click(choices[0] as HTMLElement);
    // What was picked is not given back to somebody else.
    await userEvent.type(screen.getByLabelText(/Somebody made up/), 's');
    expect(screen.getByRole('button', { name: 'Refund' })).toBeDisabled();
    await userEvent.type(screen.getByLabelText(/Somebody made up/), '{Backspace}');
    expect(await screen.findByRole('radio')).not.toBeChecked();
    await userEvent.click(screen.getByRole('radio'));
    await userEvent.click(screen.getByRole('button', { name: 'Refund' }));
    expect(asked(SEND)[0]?.body).toMatchObject({ type: 'order.refunded', data: { order: '7', items: [item], amount: 14_900 } });
  });

  it('take the phone: yes or no is said or not', async () => {
    const { asked } = openPage('/intake/stand-ins', { ...PLAY, [SEND]: took });
    await userEvent.click(await screen.findByRole('tab', { name: 'Phone desk' }));
    await userEvent.type(screen.getByLabelText(/Somebody made up/), 'ida@place.example');
    await userEvent.selectOptions(screen.getByLabelText('answered'), 'no');
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    await screen.findByText(/It came in/);
    expect(asked(SEND)[0]?.body).toMatchObject({ source: 'phone-desk', type: 'call.made', data: { answered: false } });
  });

  it('say what is refused, and lose nothing', async () => {
    openPage('/intake/stand-ins', {
      ...PLAY,
      [SEND]: {
        accepted: 0,
        duplicates: 0,
        rejected: [{ index: 0, code: 'x', path: ['data', 'order'], expected: 'order, which every such signal has' }],
      },
    });
    await userEvent.type(await screen.findByLabelText(/Somebody made up/), 'ida@place.example');
    await userEvent.click(screen.getByRole('button', { name: 'Add Kick wheel' }));
    await userEvent.click(screen.getByRole('button', { name: 'Order' }));
    expect(screen.getByText('14,900 SEK')).toBeInTheDocument();
    expect(await screen.findByRole('alert')).toHaveTextContent('order: needs order, which every such signal has');
    expect(screen.getByLabelText(/Somebody made up/)).toHaveValue('ida@place.example');
  });

  it('send every type of signal between them, those of one’s own among them', async () => {
    const own = definition(900, 'signalType', 'kiln.rented', 'kiln rented', { direction: 'from them', verb: 'rented a kiln', fields: [] });
    openPage('/intake/stand-ins', PLAY, { more: [own] });
    const verbs = new Set<string>();
    for (const tab of await screen.findAllByRole('tab')) {
      await userEvent.click(tab);
      for (const option of screen.getByLabelText<HTMLSelectElement>('What they do').options) verbs.add(option.text);
    }
    expect([...builtInSignalTypes.map(({ body }) => body.verb), 'rented a kiln'].filter((verb) => !verbs.has(verb))).toEqual([]);
  });
});
