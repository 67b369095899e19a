import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aStatus } from '../testing/answers';
import { openPage, Refused, type Answers, type SentRequest } from '../testing/page';

const KEY = { id: 3, name: 'till', prefix: 'es_abc', scopes: ['signals:write'], createdAt: '', lastUsedAt: null, revokedAt: null };
const answers: Answers = {
  'GET /api/app/keys': [KEY],
  'GET /api/app/people': [{ id: 1, email: 'wren@test.example', name: 'Wren', role: 'admin' }],
};
const section = (name: string): HTMLElement => screen.getByRole('heading', { name }).closest('section') as HTMLElement;

describe('the settings', () => {
  it('show a key once, when it is made, and revoke it', async () => {
    const { asked } = openPage('/settings', {
      ...answers,
      'POST /api/app/keys': { id: 4, key: 'es_secret' },
      'DELETE /api/app/keys/:id': () => undefined,
    });
    await screen.findByRole('heading', { name: 'Keys for the API' });
    await userEvent.type(screen.getByLabelText('New key, for'), 'shop');
    await userEvent.click(screen.getByRole('checkbox', { name: 'change contacts' }));
    await userEvent.click(screen.getByRole('checkbox', { name: 'send signals' }));
    await userEvent.click(screen.getByRole('button', { name: 'Make key' }));
    expect(await screen.findByText('es_secret')).toBeInTheDocument();
    expect(asked('POST /api/app/keys')[0]?.body).toEqual({ name: 'shop', scopes: ['contacts:write'] });
    await userEvent.click(screen.getByRole('button', { name: 'Revoke till' }));
    expect(await screen.findByText('The key till opens nothing any more.')).toBeInTheDocument();
    expect(asked('DELETE /api/app/keys/:id')[0]?.path).toBe('/api/app/keys/3');
  });

  it('give access only with a password that is long enough, and say what the server says', async () => {
    const { asked } = openPage('/settings', {
      ...answers,
      'POST /api/app/people': ({ body }: SentRequest) =>
        (body as { email: string }).email === 'taken@test.example'
          ? new Refused(409, { title: 'Somebody has that address.' })
          : { id: 2, email: '', name: '', role: 'viewer' },
    });
    const form = await screen.findByLabelText(/First password/);
    const persons = within(section('People with access'));
    await userEvent.type(persons.getByLabelText('Name'), 'Bo');
    await userEvent.type(persons.getByLabelText('Email'), 'taken@test.example');
    await userEvent.type(form, 'short{Enter}');
    expect(await screen.findByText('at least 12 characters')).toBeInTheDocument();
    expect(asked('POST /api/app/people')).toEqual([]);
    await userEvent.type(form, ' but longer now{Enter}');
    expect(await screen.findByText('Somebody has that address.')).toBeInTheDocument();
    expect(persons.getByLabelText('Name')).toHaveValue('Bo');
    await userEvent.clear(persons.getByLabelText('Email'));
    await userEvent.type(persons.getByLabelText(/^Email/), 'bo@test.example{Enter}');
    await waitFor(() => expect(persons.getByLabelText('Name')).toHaveValue(''));
    expect(asked('POST /api/app/people').at(-1)?.body).toMatchObject({ email: 'bo@test.example', role: 'viewer' });
  });

  it('take a new field with its choices, whose keys are made from their names', async () => {
    const { asked } = openPage('/settings', {
      ...answers,
      'PUT /api/v1/definitions': { made: ['field years'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.type(await screen.findByLabelText('New field'), 'Years at the wheel');
    const fields = within(section('Fields'));
    await userEvent.selectOptions(fields.getByLabelText('Type'), 'one choice');
    await userEvent.type(fields.getByLabelText('Choices, one a line'), 'A few\n\n  many \nA few!');
    await userEvent.click(fields.getByRole('button', { name: 'Add field' }));
    expect(await screen.findByText('The field Years at the wheel is there.')).toBeInTheDocument();
    const [sent] = asked('PUT /api/v1/definitions');
    expect(sent?.body).toMatchObject({ fields: [{ name: 'Years at the wheel', of: 'contact', type: 'one choice' }] });
    const [{ options }] = (sent?.body as { fields: [{ key: string; options: { key: string; name: string }[] }] }).fields;
    expect(options.map((option) => option.name)).toEqual(['A few', 'many', 'A few!']);
    expect(new Set(options.map((option) => option.key)).size).toBe(3);
  });

  it('say how many signals wait for a rate', async () => {
    openPage('/settings', {
      ...answers,
      'GET /api/v1/status': aStatus({
        waitingForRates: [
          { currency: 'NOK', signals: 3 },
          { currency: 'EUR', signals: 1 },
        ],
      }),
    });
    expect(await screen.findByText('3 signals in NOK wait for a rate.')).toBeInTheDocument();
    expect(screen.getByText('1 signal in EUR waits for a rate.')).toBeInTheDocument();
  });

  it('are only read by those who may not change them, and keys only seen by those who may', async () => {
    openPage('/settings', answers, { may: ['definitions:read'] });
    await screen.findByRole('heading', { name: 'The workspace' });
    expect(screen.queryByRole('heading', { name: 'Keys for the API' })).not.toBeInTheDocument();
    expect(screen.queryByRole('button', { name: /Save|Add|Make|Give|Keep/ })).not.toBeInTheDocument();
    expect(within(section('The workspace')).getByLabelText('Name')).toBeDisabled();
  });
});
