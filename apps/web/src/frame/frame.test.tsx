import { cleanup, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aCount, anImport, aStatus } from '../testing/answers';
import { contactView } from '../testing/people';
import { feed, Malformed, openPage, Refused, sessionOf, SILENT, TODAY } from '../testing/page';

const places = () =>
  within(screen.getByRole('navigation', { name: 'Places' }))
    .getAllByRole('link')
    .map((link) => link.firstChild?.textContent);

describe('the frame', () => {
  it('shows the places of someone who may do everything, with what flowed through each', async () => {
    openPage('/');
    await screen.findByRole('heading', { name: 'Today' });
    expect(places()).toEqual(['Today', 'People', 'Intake', 'Tags', 'Rules', 'Scores', 'Audiences', 'Campaigns', 'Ledger', 'Settings']);
    const nav = screen.getByRole('navigation', { name: 'Places' });
    for (const figure of ['5,000', '1,234 in', '+5 −2', '7 ran', '3 moved', '+4 −1', '0 sent'])
      expect(within(nav).getByText(figure)).toBeInTheDocument();
  });

  it('keeps large figures short, where there is little room', async () => {
    openPage('/', {
      'GET /api/app/today': { ...TODAY, flow: { ...TODAY.flow, joined: 18_754, left: 1_240_000, tagsAdded: 9_999, tagsRemoved: 0 } },
    });
    const nav = within(await screen.findByRole('navigation', { name: 'Places' }));
    expect(await nav.findByText('+18.8k −1.2m')).toBeInTheDocument();
    expect(nav.getByText('+9,999 −0')).toBeInTheDocument();
  });

  it('shows a place only to those who may see it', async () => {
    const browser = openPage('/', {}, { may: ['definitions:read'] });
    await waitFor(() => expect(browser.at()).toBe('/tags'));
    expect(places()).toEqual(['Tags', 'Rules', 'Scores', 'Settings']);
  });

  it('says so where a page is not for one, and leads to one that is', async () => {
    const browser = openPage('/people', {}, { may: ['definitions:read'] });
    await screen.findByText('This page is not for your role');
    await userEvent.click(screen.getByRole('link', { name: 'To Tags' }));
    expect(browser.at()).toBe('/tags');
  });

  it('sends those who are not signed in to the sign-in, and from there to where they wanted to go', async () => {
    let signedIn = false;
    const session = openPage('/audiences', {
      'GET /api/app/session': () => (signedIn ? sessionOf(['audiences:read']) : new Refused(401)),
      'POST /api/app/session': ({ body }: { body: unknown }) => {
        if ((body as { password: string }).password !== 'right') return new Refused(401, { title: 'That is not right.' });
        signedIn = true;
        return sessionOf(['audiences:read']);
      },
      'GET /api/v1/audiences': { audiences: [] },
    });
    await userEvent.type(await screen.findByLabelText('Email'), 'wren@test.example');
    expect(session.at()).toBe('/sign-in?to=%2Faudiences');
    await userEvent.type(screen.getByLabelText('Password'), 'wrong{Enter}');
    expect(await screen.findByRole('alert')).toHaveTextContent('That is not right.');
    expect(screen.getByLabelText('Email')).toHaveValue('wren@test.example');
    await userEvent.clear(screen.getByLabelText('Password'));
    await userEvent.type(screen.getByLabelText('Password'), 'right{Enter}');
    expect(await screen.findByText('No audience yet')).toBeInTheDocument();
    expect(session.at()).toBe('/audiences');
  });

  it('never goes to another site after the sign-in', async () => {
    const session = openPage('/sign-in?to=//elsewhere.example/x', {
      'POST /api/app/session': sessionOf([]),
    });
    await userEvent.type(await screen.findByLabelText('Email'), 'wren@test.example');
    await userEvent.type(screen.getByLabelText('Password'), 'right{Enter}');
    await waitFor(() => expect(session.at()).toBe('/'));
  });

  it('says so when the server is silent, and opens when it answers again', async () => {
    let up = false;
    openPage('/', { 'GET /api/app/today': () => (up ? TODAY : SILENT) });
    expect(await screen.findByRole('alert')).toHaveTextContent('The server does not answer.');
    up = true;
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByRole('heading', { name: 'Today' })).toBeInTheDocument();
  });

  it('goes by g and a letter, but not while one types', async () => {
    const browser = openPage('/', { 'GET /api/v1/audiences': { audiences: [] }, 'GET /api/app/search': [] });
    await screen.findByRole('heading', { name: 'Today' });
    await userEvent.keyboard('ga');
    expect(await screen.findByText('No audience yet')).toBeInTheDocument();
    await userEvent.keyboard('/');
    await userEvent.type(await screen.findByPlaceholderText(/a name, an address/), 'gt');
    expect(browser.at()).toBe('/audiences');
  });

  it('makes a new one by n, and tells the keys by ?', async () => {
    const browser = openPage('/audiences', {
      'GET /api/v1/audiences': { audiences: [] },
      'POST /api/v1/audiences/count': aCount(),
    });
    await screen.findByText('No audience yet');
    await userEvent.keyboard('?');
    expect(screen.getByText('search contacts and definitions')).toBeInTheDocument();
    // With a dialog open, letters are the dialog's.
    await userEvent.keyboard('n');
    expect(browser.at()).toBe('/audiences');
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    await userEvent.keyboard('n');
    await waitFor(() => expect(browser.at()).toBe('/audiences/new'));
  });

  it('finds by name and goes there by Enter, and says where nothing goes by it', async () => {
    const browser = openPage('/', {
      'GET /api/app/search': ({ query }: { query: Readonly<Record<string, string>> }) =>
        query['q'] === 'keep' ? [{ kind: 'audience', key: 'keepers', name: 'Keepers', detail: '12 people', link: '/tags' }] : [],
    });
    await screen.findByRole('heading', { name: 'Today' });
    await userEvent.keyboard('/');
    const input = await screen.findByPlaceholderText(/a name, an address/);
    await userEvent.type(input, 'nobody');
    expect(await screen.findByText('Nothing goes by that name.')).toBeInTheDocument();
    await userEvent.clear(input);
    await userEvent.type(input, 'keep');
    await screen.findByText('12 people');
    await userEvent.keyboard('{Enter}');
    await waitFor(() => expect(browser.at()).toBe('/tags'));
  });

  it('brings open pages up to date as the server tells that something moved', async () => {
    const { asked } = openPage('/audiences', { 'GET /api/v1/audiences': { audiences: [] } });
    await screen.findByText('No audience yet');
    expect(screen.getByText(/not connected/)).toBeInTheDocument();
    feed.opens();
    expect(screen.queryByText(/not connected/)).not.toBeInTheDocument();
    expect(asked('GET /api/v1/audiences')).toHaveLength(1);
    feed.tells({ counts: { signals: 4 } });
    expect(asked('GET /api/v1/audiences')).toHaveLength(1);
    feed.tells({ counts: { joined: 2 }, definitions: [{ kind: 'audience', key: 'keepers' }] });
    await waitFor(() => expect(asked('GET /api/v1/audiences')).toHaveLength(2));
  });

  it('asks again only about the contact that something happened to', async () => {
    const { asked } = openPage('/people/anna@test.example', {
      'GET /api/v1/contacts/:id': contactView(),
      'GET /api/app/contacts/id-1/timeline': { entries: [], after: null, types: [] },
    });
    await screen.findByRole('heading', { name: 'Anna' });
    await waitFor(() => expect(asked('GET /api/app/contacts/id-1/timeline')).toHaveLength(1));
    feed.tells({ contacts: ['id-2'], counts: { signals: 1 } });
    feed.tells({ contacts: ['id-1'], counts: { signals: 1 } });
    await waitFor(() => expect(asked('GET /api/app/contacts/id-1/timeline')).toHaveLength(2));
    expect(asked('GET /api/v1/contacts/:id')).toHaveLength(2);
    feed.tells({ more: true, counts: { signals: 500 } });
    await waitFor(() => expect(asked('GET /api/v1/contacts/:id')).toHaveLength(3));
  });

  it('says when the line is lost, makes another, and asks again for what it did not hear', async () => {
    const { asked } = openPage('/audiences', { 'GET /api/v1/audiences': { audiences: [] } });
    await screen.findByText('No audience yet');
    feed.opens();
    feed.breaks(true);
    expect(screen.getByText(/not connected: figures may be old/)).toBeInTheDocument();
    await waitFor(() => expect(feed.lines()).toBe(2));
    feed.opens();
    await waitFor(() => expect(asked('GET /api/v1/audiences')).toHaveLength(2));
    expect(screen.queryByText(/not connected/)).not.toBeInTheDocument();
  });

  it('tells of long work at the foot, and cancels an import', async () => {
    const { asked } = openPage('/', {
      'GET /api/app/imports': [anImport()],
      'GET /api/v1/status': aStatus({
        builds: [1, 2, 3, 4, 5].map((id) => ({ id, name: `List ${id}`, state: 'running', done: 10 * id, total: 5_000 })),
      }),
      'DELETE /api/app/imports/:id': () => undefined,
    });
    expect(await screen.findByRole('progressbar', { name: 'importing all.csv' })).toHaveAttribute('value', '250');
    expect(await screen.findByText(/20 of 5,000/)).toBeInTheDocument();
    expect(screen.getByText('and 2 more')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(asked('DELETE /api/app/imports/:id')[0]?.path).toBe('/api/app/imports/9');
  });

  it('stops a build and lets it go on, for those who may change definitions', async () => {
    let state: 'running' | 'stopped' = 'running';
    const answers = {
      'GET /api/v1/status': () => aStatus({ builds: [{ id: 4, name: 'Keepers', state, done: 10, total: 50 }] }),
      'PUT /api/v1/builds/:id': ({ body }: { body: unknown }) => {
        ({ state } = body as { state: 'running' });
        return { id: 4, name: 'Keepers', state, done: 10, total: 50 };
      },
    };
    const { asked } = openPage('/', answers);
    await userEvent.click(await screen.findByRole('button', { name: 'Stop' }));
    expect(await screen.findByRole('progressbar', { name: 'stopped bringing up Keepers' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Go on' }));
    expect(await screen.findByRole('progressbar', { name: 'bringing up Keepers' })).toBeInTheDocument();
    expect(asked('PUT /api/v1/builds/:id').map(({ path, body }) => [path, body])).toEqual([
      ['/api/v1/builds/4', { state: 'stopped' }],
      ['/api/v1/builds/4', { state: 'running' }],
    ]);
    cleanup();
    openPage('/', answers, { may: ['definitions:read'] });
    expect(await screen.findByRole('progressbar', { name: 'bringing up Keepers' })).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Stop' })).not.toBeInTheDocument();
  });

  it('stands while a page fails, and leads away from it', async () => {
    const told = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    openPage('/audiences', { 'GET /api/v1/audiences': new Malformed({ audiences: [null] }) });
    expect(await screen.findByRole('heading', { name: 'This page failed' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('link', { name: 'To Today' }));
    expect(await screen.findByRole('heading', { name: 'Today' })).toBeInTheDocument();
    told.mockRestore();
  });

  it('has an answer to an address where nothing is', async () => {
    openPage('/no/such/page');
    expect(await screen.findByText('There is no such page')).toBeInTheDocument();
  });
});
