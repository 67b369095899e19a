import { type PeopleAnswer } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aCount, anAudience } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { openPage, Refused, type Answers, type SentRequest } from '../testing/page';
import { contactView, personRow } from '../testing/people';

const EXPERIENCED = definition(60, 'audience', 'experienced', 'Experienced', {
  kind: 'live',
  of: 'contact',
  condition: {
    match: 'all',
    of: [
      { kind: 'field', of: 'contact', field: 1, op: '>', value: 3 },
      { kind: 'tag', tag: 3, op: 'has' },
    ],
  },
});
const more = [EXPERIENCED];
const line = { alone: 40, remain: 40, others: 12, onLimit: null, empty: null, never: null, inner: [] };
const COUNT = { count: 12, of: 100, reachable: 9, asOf: '', lines: [{ ...line, others: 17, onLimit: 5, empty: 3 }, line] };
const VIEW = anAudience();
const people = (...rows: PeopleAnswer['contacts']): PeopleAnswer => ({ contacts: rows, after: null });
const answers: Answers = {
  'POST /api/v1/audiences/count': COUNT,
  'GET /api/v1/audiences/experienced': VIEW,
  'GET /api/v1/audiences/experienced/members': people(personRow(1, { since: '2026-05-01T08:00:00Z' })),
};
const tab = async (name: RegExp): Promise<void> => userEvent.click(await screen.findByRole('tab', { name }));

describe('the page of a live audience', () => {
  it('shows its members, and asks for the next page as one comes near the end', async () => {
    const { asked } = openPage(
      '/audiences/experienced',
      {
        ...answers,
        'GET /api/v1/audiences/experienced/members': ({ query }: SentRequest) =>
          query['after'] ? people(personRow(3)) : { ...people(personRow(1), personRow(2)), after: 'next' },
      },
      { more },
    );
    expect(await screen.findByRole('link', { name: 'Person 3' })).toBeInTheDocument();
    expect(asked('GET /api/v1/audiences/experienced/members').map(({ query }) => query['after'])).toEqual([undefined, 'next']);
    expect(screen.getByText(/since yesterday/)).toHaveTextContent('9 can be reached by email');
  });

  it('lists whom a single line holds back, line by line, with how many', async () => {
    const { asked } = openPage('/audiences/experienced', { ...answers, 'POST /api/v1/audiences/people': people(personRow(7)) }, { more });
    await tab(/Missed by one line 5/);
    expect(await screen.findByRole('link', { name: 'Person 7' })).toBeInTheDocument();
    const picker = screen.getByRole('combobox', { name: 'held back only by' });
    expect(
      within(picker)
        .getAllByRole('option')
        .map((option) => option.textContent),
    ).toEqual(['years at the wheel is more than 3 (5)', 'has the tag glaze.ash (0)']);
    await userEvent.selectOptions(picker, '1');
    await waitFor(() => expect(asked('POST /api/v1/audiences/people').at(-1)?.body).toMatchObject({ missedBy: 1 }));
  });

  it('lists those exactly on a limit, and says where no line asks what happened', async () => {
    const { asked } = openPage('/audiences/experienced', { ...answers, 'POST /api/v1/audiences/people': people(personRow(8)) }, { more });
    await tab(/Exactly on a limit 5/);
    expect(await screen.findByRole('link', { name: 'Person 8' })).toBeInTheDocument();
    expect(asked('POST /api/v1/audiences/people').at(-1)?.body).toMatchObject({ beside: { line: 0, list: 'limit' } });
    await tab(/Never did it/);
    expect(await screen.findByText('No line asks what happened')).toBeInTheDocument();
  });

  it('adds up nobody twice: where several lines set a limit, no figure stands for all of them', async () => {
    const lines = [5, 7].map((onLimit) => ({ ...line, onLimit, never: onLimit }));
    openPage('/audiences/experienced', { ...answers, 'POST /api/v1/audiences/count': { ...COUNT, lines } }, { more });
    expect(await screen.findByRole('tab', { name: 'Exactly on a limit' })).toBeInTheDocument();
    expect(screen.getByRole('tab', { name: 'Never did it' })).toBeInTheDocument();
  });

  it('lists who moved and why, and earlier ones as they are asked for', async () => {
    const move = (id: number, joined: boolean) => ({
      id,
      contact: `id-${id}`,
      name: `Person ${id}`,
      at: '2026-05-01T08:00:00Z',
      joined,
      cause: 'ordered: Celadon',
    });
    openPage(
      '/audiences/experienced',
      {
        ...answers,
        'GET /api/v1/audiences/experienced/movements': ({ query }: SentRequest) =>
          query['after'] ? { movements: [move(1, false)], after: null } : { movements: [move(2, true)], after: 'next' },
      },
      { more },
    );
    await tab(/Who moved/);
    expect(await screen.findByRole('row', { name: /came in Person 2 ordered: Celadon/ })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Earlier' }));
    expect(await screen.findByRole('row', { name: /left Person 1/ })).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Earlier' })).not.toBeInTheDocument();
  });

  it('says how many a change lets in, and keeps what was changed when keeping is refused', async () => {
    const { asked } = openPage(
      '/audiences/experienced',
      {
        ...answers,
        'POST /api/v1/audiences/count': ({ body }: SentRequest) => (JSON.stringify(body).includes('>=') ? { ...COUNT, count: 17 } : COUNT),
        'POST /api/v1/audiences/people': people(personRow(1)),
        'PUT /api/v1/definitions': new Refused(422, {
          title: 'That cannot be kept.',
          faults: [{ path: ['audiences', 'x', 'condition', 'of', 0, 'value'], code: 'x', expected: 'a number' }],
        }),
      },
      { more },
    );
    await userEvent.click(await screen.findByRole('button', { name: 'let the 5 with exactly 3 in' }));
    expect(await screen.findByText('unsaved: +5')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Keep changes' }));
    // At the head of the page, and under the very line that it is about.
    expect(await screen.findByText('This could not be kept. Nothing that you entered is lost.')).toBeInTheDocument();
    const line = screen.getByRole('group', { name: 'years at the wheel is at least 3' });
    expect(within(line.parentElement as HTMLElement).getByRole('alert')).toHaveTextContent('Line 1, value: needs a number.');
    expect(screen.getByRole('group', { name: 'years at the wheel is at least 3' })).toBeInTheDocument();
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      audiences: [{ key: 'experienced', condition: { of: [{ field: 'years', op: '>=' }, { tag: 'glaze.ash' }] } }],
    });
    await userEvent.click(screen.getByRole('button', { name: 'Discard' }));
    expect(screen.getByRole('group', { name: 'years at the wheel is more than 3' })).toBeInTheDocument();
  });

  it('is not kept while a typed line waits to be taken: it would keep something else than what is read there', async () => {
    const { asked } = openPage(
      '/audiences/new',
      { ...answers, 'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false } },
      { more },
    );
    const typed = await screen.findByRole('combobox', { name: 'Type a line' });
    await userEvent.type(screen.getByLabelText('Name of the audience'), 'Of Eke');
    await userEvent.type(typed, 'zzz is Eke');
    await userEvent.click(screen.getByRole('button', { name: 'Keep audience' }));
    expect(await screen.findByText(/“zzz is Eke” is typed, and not taken yet/)).toBeInTheDocument();
    expect(typed).toHaveFocus();
    expect(asked('PUT /api/v1/definitions')).toEqual([]);
    await userEvent.clear(typed);
    await userEvent.click(screen.getByRole('button', { name: 'Keep audience' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
  });

  it('says that its list cannot be had, and asks again', async () => {
    let up = false;
    openPage(
      '/audiences/experienced',
      {
        ...answers,
        'GET /api/v1/audiences/experienced/members': () => (up ? people(personRow(1)) : new Refused(500, { title: 'Broken.' })),
      },
      { more },
    );
    expect(await screen.findByText('Broken.')).toBeInTheDocument();
    up = true;
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByRole('link', { name: 'Person 1' })).toBeInTheDocument();
  });

  it('leads to the companies of an audience of companies', async () => {
    openPage('/audiences/places', {
      ...answers,
      'GET /api/v1/audiences/places': { ...VIEW, key: 'places' },
      'GET /api/v1/audiences/places/members': { contacts: [], companies: [], after: null },
      'GET /api/v1/audiences/places/movements': {
        movements: [{ id: 1, contact: 'c-1', name: 'Claylight', at: '2026-05-01T08:00:00Z', joined: true, cause: 'by hand' }],
        after: null,
      },
    });
    await tab(/Who moved/);
    expect(await screen.findByRole('link', { name: 'Claylight' })).toHaveAttribute('href', '/people/companies/c-1');
  });
});

describe('pins', () => {
  const pin = {
    subject: 'id-1',
    name: 'Person 1',
    in: true,
    reason: 'asked to',
    since: '2026-05-01T08:00:00Z',
    until: null,
    by: 'wren@test.example',
  };
  it('are made with a reason, and what was entered stays when they are refused', async () => {
    let refuses = true;
    const { asked } = openPage(
      '/audiences/experienced',
      {
        ...answers,
        'GET /api/app/audiences/experienced/pins': { pins: [], all: 0 },
        'PUT /api/app/audiences/experienced/pins': () =>
          refuses ? new Refused(404, { title: 'There is no such contact.' }) : { pins: [], all: 0 },
      },
      { more },
    );
    await tab(/Pinned/);
    expect(await screen.findByText('Nobody is pinned')).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText('Email address'), 'anna@test.example');
    await userEvent.selectOptions(screen.getByLabelText('is'), 'never in');
    await userEvent.type(screen.getByLabelText('because'), 'asked us to');
    await userEvent.click(screen.getByRole('button', { name: 'Pin' }));
    expect(await screen.findByText('There is no such contact.')).toBeInTheDocument();
    expect(screen.getByLabelText('because')).toHaveValue('asked us to');
    refuses = false;
    await userEvent.click(screen.getByRole('button', { name: 'Pin' }));
    await waitFor(() => expect(screen.getByLabelText('because')).toHaveValue(''));
    expect(asked('PUT /api/app/audiences/experienced/pins').at(-1)?.body).toEqual({
      subject: 'anna@test.example',
      in: false,
      reason: 'asked us to',
      until: null,
    });
  });

  it('are listed with why and by whom, are taken away, and say of how many they are', async () => {
    const { asked } = openPage(
      '/audiences/experienced',
      {
        ...answers,
        'GET /api/app/audiences/experienced/pins': { pins: [pin], all: 201 },
        'DELETE /api/app/audiences/experienced/pins/:id': () => undefined,
      },
      { more },
    );
    await tab(/Pinned/);
    expect(await screen.findByRole('row', { name: /Person 1 always in asked to/ })).toBeInTheDocument();
    expect(screen.getByText(/1 of 201 are shown/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'unpin' }));
    expect(await screen.findByText(/Person 1 is pinned no more/)).toBeInTheDocument();
    expect(asked('DELETE /api/app/audiences/experienced/pins/:id')[0]?.path).toMatch(/id-1$/);
  });
});

describe('a fixed list', () => {
  it('is what was picked of a new audience, of people or of companies, and keeps the name that was given', async () => {
    const saved = { made: ['audience fair'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
    const { asked } = openPage('/audiences/new', {
      'POST /api/v1/audiences/count': aCount(),
      'POST /api/v1/audiences/people': { contacts: [], after: null },
      'PUT /api/v1/definitions': saved,
    });
    await userEvent.type(await screen.findByLabelText('Name of the audience'), 'Fair');
    const pick = (words: string) => userEvent.selectOptions(screen.getByLabelText('What it is'), words);
    await pick('fixed list of people, filled by hand');
    expect(await screen.findByLabelText('Name of the list')).toHaveValue('Fair');
    await pick('live audience of companies');
    expect(await screen.findByLabelText('Name of the audience')).toHaveValue('Fair');
    await pick('fixed list of companies, filled by hand');
    expect(screen.getByText(/^A fixed list of companies/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Keep list' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
        audiences: [{ key: 'fair', name: 'Fair', kind: 'fixed', of: 'company' }],
      }),
    );
  });

  it('takes people on and off by their address, and says what is wrong with one', async () => {
    const { asked } = openPage('/audiences/guests', {
      'GET /api/v1/audiences/guests': { ...VIEW, key: 'guests', members: 1 },
      'GET /api/v1/audiences/guests/members': people(personRow(4)),
      'GET /api/v1/contacts/:id': ({ path }: SentRequest) => (path.includes('stranger') ? new Refused(404) : contactView()),
      'PUT /api/v1/contacts': ({ body }: SentRequest) =>
        JSON.stringify(body).includes('bad@')
          ? { results: [{ index: 0, contact: null, status: 'rejected', faults: [{ path: [], code: 'x', expected: 'a better address' }] }] }
          : { results: [{ index: 0, status: 'updated', contact: 'id-4' }] },
    });
    const input = await screen.findByLabelText('Put on the list, by email address');
    await userEvent.type(input, 'bad@test.example{Enter}');
    expect(await screen.findByText(/bad@test.example: needs a better address/)).toBeInTheDocument();
    expect(input).toHaveValue('bad@test.example');
    // A mistyped address makes nobody by itself.
    await userEvent.clear(input);
    await userEvent.type(input, 'stranger@test.example{Enter}');
    expect(await screen.findByText(/Is it mistyped/)).toBeInTheDocument();
    expect(asked('PUT /api/v1/contacts')).toHaveLength(1);
    await userEvent.click(screen.getByRole('button', { name: 'Add them as a new contact' }));
    expect(await screen.findByText('stranger@test.example is on Guests.')).toBeInTheDocument();
    await userEvent.click(await screen.findByRole('button', { name: /^Take .* off$/ }));
    expect(await screen.findByText('p4@test.example is off Guests.')).toBeInTheDocument();
    expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({
      contacts: [{ email: 'p4@test.example', lists: { guests: false } }],
    });
  });
});
