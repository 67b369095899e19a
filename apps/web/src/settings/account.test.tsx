import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { capabilities } from '@eager-sieve/contracts';
import { openPage, Refused, sessionOf, type Answers, type SentRequest } from '../testing/page';

const HERE = {
  id: 'b1',
  agent: 'Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0',
  address: '127.0.0.1',
  since: '2026-05-01T00:00:00Z',
  seen: '2026-05-01T00:00:00Z',
  here: true,
};
const PHONE = { ...HERE, id: 'b2', agent: 'Mozilla/5.0 (iPhone; CPU iPhone OS 19_0) Version/19.0 Safari/604.1', here: false };
const answers: Answers = { 'GET /api/app/session/browsers': [HERE, PHONE, { ...PHONE, id: 'b3', agent: 'curl/8.5.0' }] };
const section = (name: string) => within(screen.getByRole('heading', { name }).closest('section') as HTMLElement);

describe('one’s own account', () => {
  it('changes the password, and says what is wrong with a new one', async () => {
    const { asked } = openPage('/settings/account', {
      ...answers,
      'PUT /api/app/session/password': ({ body }: SentRequest) =>
        (body as { next: string }).next === 'short'
          ? new Refused(422, {
              title: 'Too easy.',
              faults: [{ path: ['next'], code: 'password.weak', expected: 'at least 12 characters' }],
            })
          : undefined,
    });
    await userEvent.type(await screen.findByLabelText('As it is now'), 'as it was');
    await userEvent.type(screen.getByLabelText(/^The new one/), 'short{Enter}');
    expect(await screen.findByRole('alert')).toHaveTextContent('Too easy. The new password: needs at least 12 characters.');
    await userEvent.clear(screen.getByLabelText(/^The new one/));
    await userEvent.type(screen.getByLabelText(/^The new one/), 'kettle of green plums{Enter}');
    expect(await screen.findByText(/Your password is changed/)).toBeInTheDocument();
    expect(asked('PUT /api/app/session/password').at(-1)?.body).toEqual({ password: 'as it was', next: 'kettle of green plums' });
    expect(screen.getByLabelText('As it is now')).toHaveValue('');
  });

  it('turns the second factor on by a code, and shows the recovery codes once', async () => {
    let on = false;
    openPage('/settings/account', {
      ...answers,
      'GET /api/app/session': () => ({ ...sessionOf(capabilities), person: { ...sessionOf([]).person, secondFactor: on } }),
      'POST /api/app/session/second-factor': { secret: 'ABCDEFGH', uri: 'otpauth://totp/x?secret=ABCDEFGH' },
      'PUT /api/app/session/second-factor': ({ body }: SentRequest) => {
        if ((body as { code: string }).code !== '123456') return new Refused(422, { title: 'This code is not right.' });
        on = true;
        return { codes: ['aaaaa-bbbbb', 'ccccc-ddddd'] };
      },
    });
    await screen.findByRole('heading', { name: 'Second factor' });
    await userEvent.type(section('Second factor').getByLabelText('Your password'), 'mine{Enter}');
    expect(await screen.findByText('ABCD EFGH')).toBeInTheDocument();
    expect(await screen.findByRole('img', { name: /secret as a picture/ })).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText(/^The code/), '000000{Enter}');
    expect(await screen.findByText('This code is not right.')).toBeInTheDocument();
    await userEvent.clear(screen.getByLabelText(/^The code/));
    await userEvent.type(screen.getByLabelText(/^The code/), '123456{Enter}');
    expect(await screen.findByText('aaaaa-bbbbb')).toBeInTheDocument();
    expect(await screen.findByRole('button', { name: 'Turn off' })).toBeInTheDocument();
  });

  it('names the browsers in which one is signed in, and signs out one', async () => {
    const { asked } = openPage('/settings/account', { ...answers, 'DELETE /api/app/session/browsers/:id': () => undefined });
    for (const name of ['Firefox on Linux', 'Safari on iPhone or iPad', 'curl/8.5.0'])
      expect(await screen.findByText(name)).toBeInTheDocument();
    expect(within(screen.getByRole('row', { name: /Firefox/ })).queryByRole('button')).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Sign out Safari on iPhone or iPad' }));
    expect(asked('DELETE /api/app/session/browsers/:id')[0]?.path).toBe('/api/app/session/browsers/b2');
  });
});

describe('the sign-in', () => {
  it('asks for a code where there is a second factor, and keeps what was typed', async () => {
    const { asked, at } = openPage('/sign-in', {
      'POST /api/app/session': ({ body }: SentRequest) => {
        const { code } = body as { code?: string };
        if (code === undefined) return new Refused(401, { code: 'sign-in.code', title: 'Enter the code.' });
        return code === '123456'
          ? sessionOf(capabilities)
          : new Refused(401, { code: 'sign-in.code-wrong', title: 'This code is not right.' });
      },
    });
    await userEvent.type(await screen.findByLabelText('Email'), 'wren@test.example');
    await userEvent.type(screen.getByLabelText('Password'), 'mine{Enter}');
    await userEvent.type(await screen.findByLabelText(/^The code/), '000000{Enter}');
    expect(await screen.findByRole('alert')).toHaveTextContent('This code is not right.');
    await userEvent.clear(screen.getByLabelText(/^The code/));
    await userEvent.type(screen.getByLabelText(/^The code/), '123456{Enter}');
    await screen.findByRole('heading', { name: 'Today' });
    expect(at()).toBe('/');
    expect(asked('POST /api/app/session').at(-1)?.body).toEqual({ email: 'wren@test.example', password: 'mine', code: '123456' });
  });

  it('is made ready by a link, with a password of one’s own', async () => {
    const { at } = openPage('/welcome/abc', {
      'GET /api/public/invitations/:id': { email: 'bo@test.example', name: 'Bo', isFirst: false },
      'POST /api/public/invitations/:id': sessionOf(capabilities),
    });
    expect(await screen.findByText(/^Welcome, Bo/)).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText(/^Password/), 'kettle of green plums{Enter}');
    await screen.findByRole('heading', { name: 'Today' });
    expect(at()).toBe('/');
  });

  it('is begun by the first person, who names the workspace and says who they are', async () => {
    const { asked, at } = openPage('/welcome/abc', {
      'GET /api/public/invitations/:id': { email: 'first@sieve.invalid', name: 'The first person', isFirst: true },
      'POST /api/public/invitations/:id': sessionOf(capabilities),
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    const begin = await screen.findByRole('button', { name: 'Begin' });
    await userEvent.type(screen.getByLabelText('Name of the workspace'), 'Kiln yard');
    await userEvent.selectOptions(screen.getByLabelText(/^Time zone/), 'Europe/Oslo');
    await userEvent.selectOptions(screen.getByLabelText(/^Currency/), 'NOK');
    await userEvent.type(screen.getByLabelText('Your name'), 'Una');
    await userEvent.type(screen.getByLabelText('Your email'), 'una@test.example');
    expect(begin).toBeDisabled();
    await userEvent.type(screen.getByLabelText(/^A password/), 'kettle of green plums');
    await userEvent.click(begin);
    await screen.findByRole('heading', { name: 'Today' });
    expect(at()).toBe('/');
    expect(asked('POST /api/public/invitations/:id')[0]?.body).toEqual({
      password: 'kettle of green plums',
      self: { email: 'una@test.example', name: 'Una' },
    });
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({ name: 'Kiln yard', timeZone: 'Europe/Oslo', currency: 'NOK' });
  });

  it('says so where a link is over', async () => {
    openPage('/welcome/abc', { 'GET /api/public/invitations/:id': new Refused(404) });
    expect(await screen.findByRole('alert')).toHaveTextContent('This link has been used, or it is older than seven days.');
  });

  it('is written to in the morning, or not', async () => {
    const { asked } = openPage('/settings/account', {
      'GET /api/app/session/browsers': [],
      'PUT /api/app/session/account': () => undefined,
    });
    const toggle = await screen.findByLabelText('Write to me in the morning');
    expect(toggle).toBeChecked();
    await userEvent.click(toggle);
    expect(asked('PUT /api/app/session/account').at(-1)?.body).toEqual({ dailyMail: false });
  });
});
