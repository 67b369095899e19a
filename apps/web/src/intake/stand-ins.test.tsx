import { builtInSignalTypes } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const SEND = 'POST /api/v1/signals';
const PLAY = { 'GET /api/app/play': { isOffered: false, types: [], running: null, played: 0 } };
const took = { accepted: 1, duplicates: 0, rejected: [], changed: [] };

describe('the stand-ins', () => {
  it('send what somebody made up does, without anything that was left empty', async () => {
    const { asked } = openPage('/intake/stand-ins', { ...PLAY, [SEND]: took });
    const who = await screen.findByLabelText(/Somebody made up/);
    const send = screen.getByRole('button', { name: 'Send' });
    await userEvent.type(who, 'ida@real.com');
    expect(send).toBeDisabled();
    await userEvent.clear(who);
    await userEvent.type(who, 'ida@place.example');
    await userEvent.type(screen.getByLabelText('order'), 'W-1');
    await userEvent.type(screen.getByLabelText('product of item 1'), 'Celadon');
    await userEvent.click(screen.getByRole('button', { name: '+ item' }));
    await userEvent.click(screen.getAllByRole('button', { name: 'Leave out' })[1] as HTMLElement);
    await userEvent.click(send);
    expect(await screen.findByRole('link', { name: 'See what it did' })).toHaveAttribute('href', '/people/ida@place.example');
    expect(asked(SEND)[0]?.body).toMatchObject({
      source: 'shop',
      type: 'order.placed',
      subject: 'ida@place.example',
      data: { order: 'W-1', items: [{ product: 'Celadon' }], currency: 'SEK' },
    });
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
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
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
