import { capabilities, type SiteView } from '@eager-sieve/contracts';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage, Refused } from '../testing/page';

const SITE: SiteView = { isOn: false, origins: [], types: [], script: 'https://sieve.example/site.js', unknown: 2, known: 1 };
const own = definition(900, 'signalType', 'colour.liked', 'colour liked', { direction: 'from them', verb: 'liked a colour', fields: [] });

describe('the page of one’s sites', () => {
  it('says which are listened to, what they may send, and what their pages need', async () => {
    const { asked } = openPage('/intake/site', { 'GET /api/app/site': SITE, 'PUT /api/app/site': () => undefined }, { more: [own] });
    expect(await screen.findByText('1 visitor known, 2 visitors not known yet')).toBeInTheDocument();
    expect(screen.getByText('<script src="https://sieve.example/site.js" defer></script>')).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Keep' })).toBeDisabled();
    await userEvent.click(screen.getByLabelText('Listen to these sites'));
    await userEvent.type(screen.getByLabelText('Their addresses, one a line'), 'https://a.example/{Enter}https://b.example');
    await userEvent.click(screen.getByLabelText('colour liked'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(asked('PUT /api/app/site')[0]?.body).toEqual({
      isOn: true,
      origins: ['https://a.example', 'https://b.example'],
      types: ['colour.liked'],
    });
  });

  it('says why it is not kept, and loses nothing', async () => {
    openPage('/intake/site', {
      'GET /api/app/site': SITE,
      'PUT /api/app/site': new Refused(422, { title: 'That is no address of a site.' }),
    });
    const addresses = await screen.findByLabelText('Their addresses, one a line');
    await userEvent.type(addresses, 'studio');
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('That is no address of a site.');
    expect(addresses).toHaveValue('studio');
  });

  it('is only looked at by who may not change settings', async () => {
    openPage('/intake/site', { 'GET /api/app/site': SITE }, { may: capabilities.filter((each) => each !== 'settings:write') });
    expect(await screen.findByLabelText('Listen to these sites')).toBeDisabled();
    expect(screen.queryByRole('button', { name: 'Keep' })).not.toBeInTheDocument();
  });
});
