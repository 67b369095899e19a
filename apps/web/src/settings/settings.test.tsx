import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aStatus } from '../testing/answers';
import { openPage, Refused, type Answers, type SentRequest } from '../testing/page';

const KEY = { id: 3, name: 'till', prefix: 'es_abc', scopes: ['signals:write'], createdAt: '', lastUsedAt: null, revokedAt: null };
const answers: Answers = {
  'GET /api/app/keys': [KEY],
  'GET /api/app/people': [
    {
      id: 1,
      email: 'wren@test.example',
      name: 'Wren',
      role: 'admin',
      team: null,
      seesTeam: false,
      state: 'active',
      secondFactor: false,
      seen: null,
    },
  ],
};
const section = (name: string): HTMLElement => screen.getByRole('heading', { name }).closest('section') as HTMLElement;

describe('the settings', () => {
  it('show a key once, when it is made, and revoke it', async () => {
    const { asked } = openPage('/settings/keys', {
      ...answers,
      'POST /api/app/keys': { id: 4, key: 'es_secret' },
      'PUT /api/app/keys/:id': () => undefined,
      'DELETE /api/app/keys/:id': () => undefined,
    });
    await screen.findByRole('heading', { name: 'Keys for the API' });
    await userEvent.type(screen.getByLabelText('New key, for'), 'shop');
    await userEvent.click(screen.getByRole('checkbox', { name: 'change contacts' }));
    await userEvent.click(screen.getByRole('checkbox', { name: 'send signals' }));
    await userEvent.click(screen.getByRole('button', { name: 'Make key' }));
    expect(await screen.findByText('es_secret')).toBeInTheDocument();
    expect(asked('POST /api/app/keys')[0]?.body).toEqual({ name: 'shop', scopes: ['contacts:write'] });
    await userEvent.type(screen.getByLabelText('Name of the key till'), ' 2{Tab}');
    expect(await screen.findByText('The key is called till 2 now.')).toBeInTheDocument();
    expect(asked('PUT /api/app/keys/:id')[0]?.body).toEqual({ name: 'till 2' });
    await userEvent.click(screen.getByRole('button', { name: 'Revoke till' }));
    expect(await screen.findByText('The key till opens nothing any more.')).toBeInTheDocument();
    expect(asked('DELETE /api/app/keys/:id')[0]?.path).toBe('/api/app/keys/3');
  });

  it('invite somebody, show the link once, and say what the server says', async () => {
    const bo = {
      id: 2,
      email: 'bo@test.example',
      name: 'Bo',
      role: 'viewer',
      team: null,
      seesTeam: false,
      state: 'invited',
      secondFactor: false,
      seen: null,
    };
    let isInvited = false;
    const { asked } = openPage('/settings/people', {
      ...answers,
      'GET /api/app/people': () => (isInvited ? [bo] : []),
      'POST /api/app/people': ({ body }: SentRequest) =>
        (body as { email: string }).email === 'taken@test.example'
          ? new Refused(409, { title: 'Somebody has that address.' })
          : ((isInvited = true), { person: bo, token: 'abc' }),
    });
    await screen.findByRole('button', { name: 'Invite' });
    const persons = within(section('People with access'));
    await userEvent.type(persons.getByLabelText('Name'), 'Bo');
    await userEvent.type(persons.getByLabelText('Email'), 'taken@test.example{Enter}');
    expect(await screen.findByText('Somebody has that address.')).toBeInTheDocument();
    expect(persons.getByLabelText('Name')).toHaveValue('Bo');
    await userEvent.clear(persons.getByLabelText('Email'));
    await userEvent.type(persons.getByLabelText(/^Email/), 'bo@test.example{Enter}');
    expect(await screen.findByText(/\/welcome\/abc$/)).toBeInTheDocument();
    expect(persons.getByLabelText('Name')).toHaveValue('');
    expect(asked('POST /api/app/people').at(-1)?.body).toEqual({ name: 'Bo', email: 'bo@test.example', role: 'viewer' });
  });

  it('puts a seller into a team, and lets them see the contacts of all of it', async () => {
    const nell = { id: 2, email: 'nell@test.example', name: 'Nell', role: 'seller', state: 'active', secondFactor: false, seen: null };
    let [team, seesTeam]: [string | null, boolean] = [null, false];
    const { asked } = openPage('/settings/people', {
      ...answers,
      'GET /api/app/people': () => [{ ...nell, team, seesTeam }],
      'PUT /api/app/people/:id': ({ body }: { body: { team?: string; seesTeam?: boolean } }) => {
        [team, seesTeam] = [body.team ?? team, body.seesTeam ?? seesTeam];
        return { ...nell, team, seesTeam };
      },
    });
    const input = await screen.findByLabelText('Team of Nell');
    expect(screen.queryByLabelText('Nell sees the contacts of the whole team')).not.toBeInTheDocument();
    await userEvent.type(input, 'North{Enter}');
    expect(asked('PUT /api/app/people/:id').at(-1)?.body).toEqual({ team: 'North' });
    await userEvent.click(await screen.findByLabelText('Nell sees the contacts of the whole team'));
    expect(asked('PUT /api/app/people/:id').at(-1)?.body).toEqual({ seesTeam: true });
    expect(await screen.findByText('Nell sees the contacts of the whole team now.')).toBeInTheDocument();
    expect(screen.getByLabelText('Nell sees the contacts of the whole team')).toBeChecked();
  });

  it('change a role, ask before somebody is removed, and say so where that cannot be', async () => {
    const wren = {
      id: 1,
      email: 'wren@test.example',
      name: 'Wren',
      role: 'admin',
      team: null,
      seesTeam: false,
      state: 'active',
      secondFactor: true,
      seen: null,
    };
    const bo = { ...wren, id: 2, email: 'bo@test.example', name: 'Bo', role: 'viewer', state: 'disabled' };
    const { asked } = openPage('/settings/people', {
      ...answers,
      'GET /api/app/people': [wren, bo],
      'PUT /api/app/people/:id': ({ path }: SentRequest) =>
        path.endsWith('/1') ? new Refused(409, { title: 'Make somebody else an admin first.' }) : { ...bo, role: 'editor' },
      'DELETE /api/app/people/:id': () => undefined,
    });
    await userEvent.selectOptions(await screen.findByLabelText('Role of Bo'), 'editor');
    expect(await screen.findByText('Bo is editor now.')).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('Role of Wren'), 'viewer');
    expect(await screen.findByText('Make somebody else an admin first.')).toBeInTheDocument();
    const row = within(screen.getByRole('row', { name: /Bo/ }));
    await userEvent.click(row.getByText('More'));
    await userEvent.click(row.getByRole('button', { name: 'Let in again' }));
    expect(asked('PUT /api/app/people/:id').at(-1)?.body).toEqual({ disabled: false });
    await userEvent.click(row.getByText('More'));
    await userEvent.click(row.getByRole('button', { name: 'Remove …' }));
    expect(asked('DELETE /api/app/people/:id')).toEqual([]);
    await userEvent.click(screen.getByRole('button', { name: 'Remove', hidden: true }));
    expect(await screen.findByText('Bo has no access any more.')).toBeInTheDocument();
    expect(asked('DELETE /api/app/people/:id')[0]?.path).toBe('/api/app/people/2');
  });

  it('take a new field with its choices, whose keys are made from their names', async () => {
    const { asked } = openPage('/settings/fields', {
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

  it('stand in sections with an address each', async () => {
    openPage('/settings/stages', answers);
    await screen.findByRole('heading', { name: 'Ladder' });
    expect(screen.queryByRole('heading', { name: 'Fields' })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('link', { name: 'Fields' }));
    expect(await screen.findByRole('heading', { name: 'Fields' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('link', { name: 'Your account' }));
    expect(await screen.findByRole('heading', { name: 'Password' })).toBeInTheDocument();
  });

  it('take a type of signal of one’s own, with its words and its details', async () => {
    const { asked } = openPage('/settings/signal-types/new', {
      ...answers,
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.type(await screen.findByLabelText('A contact …'), 'drove a van');
    await userEvent.type(screen.getByLabelText('One of them'), 'trip');
    await userEvent.type(screen.getByLabelText('Also called'), 'hauled clay, carted ');
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    expect(screen.getByLabelText('Name of the signal type')).toHaveValue('van driven');
    expect(screen.getByLabelText('How it reads')).toHaveTextContent('who has not driven a van in the last 30 days');
    await userEvent.type(screen.getByLabelText('Name of detail 1'), 'Trip length');
    await userEvent.selectOptions(screen.getByLabelText('Type of detail 1'), 'number');
    await userEvent.click(screen.getByRole('button', { name: 'Keep signal type' }));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
      signalTypes: [
        {
          key: 'van-driven',
          name: 'van driven',
          direction: 'from them',
          verb: 'drove a van',
          one: 'trip',
          synonyms: ['hauled clay', 'carted'],
          fields: [{ key: 'tripLength', type: 'number', label: 'Trip length' }],
        },
      ],
    });
  });

  it('take a colour for pages that everybody can see, and the standard one again', async () => {
    const saved = { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
    const { asked } = openPage('/settings', { ...answers, 'PUT /api/v1/definitions': saved });
    await screen.findByRole('heading', { name: 'The workspace' });
    const workspace = within(section('The workspace'));
    fireEvent.change(workspace.getByLabelText('Colour of public pages'), { target: { value: '#204060' } });
    await userEvent.click(workspace.getByRole('button', { name: 'Keep changes' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ colour: '#204060' });
    await userEvent.click(workspace.getByRole('button', { name: 'take the standard one' }));
    expect(workspace.getByRole('button', { name: 'Keep changes' })).toBeDisabled();
  });

  it('are only read by those who may not change them, and keys only seen by those who may', async () => {
    openPage('/settings', answers, { may: ['definitions:read'] });
    await screen.findByRole('heading', { name: 'The workspace' });
    const sections = within(screen.getByRole('navigation', { name: 'Sections of the settings' }));
    expect(sections.queryByRole('link', { name: /^Keys/ })).not.toBeInTheDocument();
    expect(sections.getByRole('link', { name: 'Workspace' })).toHaveAttribute('aria-current', 'page');
    expect(screen.queryByRole('button', { name: /Save|Add|Make|Give|Keep/ })).not.toBeInTheDocument();
    expect(within(section('The workspace')).getByLabelText('Name')).toBeDisabled();
  });
});
