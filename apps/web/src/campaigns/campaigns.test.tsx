import { POSTS_SHOWN, SENDS_SHOWN, type PostView, type RecipientsView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage, Refused, type SentRequest } from '../testing/page';

const NEWS = definition(40, 'message', 'news', 'News', {
  channel: 'email',
  subject: 'News',
  text: 'Hello [given-name or "there"]',
  links: [],
  audience: 9,
});
const more = [NEWS, definition(41, 'field', 'given-name', 'given name', { of: 'contact', type: 'text' })];

const person = (n: number, why: string | null = null): RecipientsView['people'][number] => ({
  id: `id-${n}`,
  name: `Person ${n}`,
  email: `p${n}@test.example`,
  state: why ? 'held back' : 'receives',
  why,
});
const ALL: RecipientsView = {
  audience: 'Keepers',
  building: false,
  already: { people: 0, last: null },
  members: 300,
  receive: 299,
  held: { 'has withdrawn consent to email': 1 },
  found: { receive: 299, held: 1 },
  people: [
    { ...person(1), preview: { subject: 'News', text: 'Hello Anna' } },
    ...Array.from({ length: 199 }, (_, n) => person(n + 2)),
    person(300, 'has withdrawn consent to email'),
  ],
};
const recipients = ({ query }: SentRequest): RecipientsView =>
  query['search'] ? { ...ALL, found: { receive: 1, held: 0 }, people: query['search'] === 'p250' ? [person(250)] : [] } : ALL;

describe('the page of a message', () => {
  it('says who exactly gets it, who is held back and why, and of how many the list is', async () => {
    openPage('/campaigns/news', { 'GET /api/app/messages/news/recipients': recipients }, { more });
    const region = within(await screen.findByRole('region', { name: 'Recipients' }));
    expect(region.getByRole('heading', { name: '299 people get it' })).toBeInTheDocument();
    expect(region.getByText('1 held back: has withdrawn consent to email')).toBeInTheDocument();
    expect(region.getByText('Hello Anna')).toBeInTheDocument();
    expect(region.getAllByRole('listitem')).toHaveLength(201);
    expect(region.getByText('201 of 300 are shown: search for the others.')).toBeInTheDocument();
  });

  it('puts in what a tag says to whoever has it, and what is said to all others', async () => {
    const told = definition(170, 'tag', 'glaze.shino', 'cares for shino', { family: 1, text: 'Shino is back in the kiln.' });
    const { asked } = openPage(
      '/campaigns/news',
      {
        'GET /api/app/messages/news/recipients': recipients,
        'PUT /api/v1/definitions': { made: [], changed: ['message news'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
      },
      { more: [...more, told] },
    );
    await userEvent.selectOptions(await screen.findByLabelText('Put in the text of a tag'), '170');
    expect(screen.getByText('Shino is back in the kiln.')).toBeInTheDocument();
    expect(screen.getByLabelText('Text')).toHaveValue('Hello [given-name or "there"][glaze-shino]');
    expect(screen.queryByText(/in place of \[glaze-shino\]/)).toBeNull();
    await userEvent.type(screen.getByLabelText('To all others than cares for shino'), 'Look around.');
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
        messages: [{ tagTexts: [{ key: 'glaze-shino', tag: 'glaze.shino', otherwise: 'Look around.' }] }],
      }),
    );
  });

  it('finds those who are not on its list, and says that nobody is there rather than nothing', async () => {
    openPage('/campaigns/news', { 'GET /api/app/messages/news/recipients': recipients }, { more });
    const search = await screen.findByRole('searchbox', { name: 'Search the recipients' });
    await userEvent.type(search, 'p250');
    expect(await screen.findByRole('link', { name: 'Person 250' })).toBeInTheDocument();
    await waitFor(() => expect(screen.queryByText(/are shown/)).not.toBeInTheDocument());
    await userEvent.type(search, '9');
    expect(await screen.findByText('Nobody in Keepers goes by “p2509”.')).toBeInTheDocument();
  });

  it('sends only to as many as were shown: if they moved meanwhile it says so and looks again', async () => {
    let receive = 299;
    const { asked } = openPage(
      '/campaigns/news',
      {
        'GET /api/app/messages/news/recipients': () => ({ ...ALL, receive }),
        'POST /api/app/messages/news/send': ({ body }: SentRequest) =>
          (body as { expected: number }).expected === receive
            ? { id: 1, recipients: receive }
            : new Refused(409, { title: 'It is 298 now.' }),
      },
      { more },
    );
    await screen.findByRole('heading', { name: '299 people get it' });
    receive = 298;
    await userEvent.click(screen.getByRole('button', { name: /^Send/ }));
    await userEvent.click(screen.getByRole('button', { name: 'Send to 299 people' }));
    expect(await screen.findByText(/It is 298 now/)).toBeInTheDocument();
    expect(await screen.findByRole('heading', { name: '298 people get it' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: /^Send$|^Send …|^Send to 298/ }));
    await userEvent.click(await screen.findByRole('button', { name: 'Send to 298 people' }));
    expect(await screen.findByText(/On its way to 298 people/)).toBeInTheDocument();
    expect(asked('POST /api/app/messages/news/send').map(({ body }) => body)).toEqual([
      { expected: 299, again: false },
      { expected: 298, again: false },
    ]);
  });

  it('says who got it already, and sends it to them once more only where that is asked for', async () => {
    const had = { ...ALL, receive: 10, already: { people: 289, last: '2026-05-01T00:00:00Z' }, held: { 'got it already': 289 } };
    const { asked } = openPage(
      '/campaigns/news',
      {
        'GET /api/app/messages/news/recipients': ({ query }: SentRequest) =>
          query['again'] === 'true' ? { ...had, receive: 299, held: {} } : had,
        'POST /api/app/messages/news/send': { id: 2, recipients: 299 },
      },
      { more },
    );
    const again = await screen.findByLabelText(/send it again to the 289 who got it already/);
    expect(await screen.findByText(/289 held back: got it already/)).toBeInTheDocument();
    await userEvent.click(again);
    await userEvent.click(await screen.findByRole('button', { name: 'Send …' }));
    expect(await screen.findByText(/289 of them got it already, and would get it again/)).toBeInTheDocument();
    await userEvent.click(await screen.findByRole('button', { name: 'Send to 299 people' }));
    await screen.findByText(/On its way/);
    expect(asked('POST /api/app/messages/news/send')[0]?.body).toEqual({ expected: 299, again: true });
  });

  it('says where there is no such message', async () => {
    openPage('/campaigns/none');
    expect(await screen.findByText('There is no such message')).toBeInTheDocument();
  });
});

describe('campaigns', () => {
  it('list what was sent with what came of it, and what is in doubt', async () => {
    const send = { id: 1, message: 'news', messageName: 'News', at: '2026-05-01T08:00:00Z', by: null, audienceName: 'Keepers' };
    openPage(
      '/campaigns',
      {
        'GET /api/app/sends': [
          { ...send, recipients: 1_200, sent: 1_190, heldBack: 31, inDoubt: 10, opened: 700, clicked: 90, unsubscribed: 2 },
        ],
      },
      { more },
    );
    expect(await screen.findByText('1,190')).toHaveTextContent('1,190 of 1,200 · 10 in doubt');
    expect(screen.getByText('to Keepers')).toBeInTheDocument();
  });

  it('say that the sends are the latest, where there are more', async () => {
    const send = {
      message: 'news',
      messageName: 'News',
      at: '2026-05-01T08:00:00Z',
      by: null,
      audienceName: 'Keepers',
      recipients: 1,
      sent: 1,
    };
    const sends = Array.from({ length: SENDS_SHOWN }, (_, id) => ({
      ...send,
      id,
      heldBack: 0,
      inDoubt: 0,
      opened: 0,
      clicked: 0,
      unsubscribed: 0,
    }));
    openPage('/campaigns', { 'GET /api/app/sends': sends }, { more });
    expect(await screen.findByText(`the latest ${SENDS_SHOWN}`)).toBeInTheDocument();
  });

  it('that are none say where to begin', async () => {
    openPage('/campaigns', { 'GET /api/app/sends': [] });
    expect(await screen.findByText('No message yet')).toBeInTheDocument();
    expect(await screen.findByText('Nothing has been sent yet.')).toBeInTheDocument();
  });
});

describe('the post room', () => {
  const post = (id: number, text = 'Hello'): PostView => ({
    id,
    to: `p${id}@test.example`,
    contact: `id-${id}`,
    name: `Person ${id}`,
    subject: `Subject ${id}`,
    at: '2026-05-01T08:00:00Z',
    text,
    links: [
      { key: 'a', label: 'Glossy', url: 'http://sieve.test/c/1' },
      { key: 'b', label: 'Matt', url: 'http://sieve.test/c/2' },
    ],
    unsubscribe: 'http://sieve.test/u/1',
    opened: id > 1,
  });

  it('shows a letter as its recipient reads it, links by their words, and answers as they would', async () => {
    const { asked } = openPage('/campaigns/post-room', {
      'GET /api/app/post-room': [post(1), post(2, 'Which? http://sieve.test/c/2 or http://sieve.test/c/1. Bye')],
      'POST /api/app/post-room/2/act': () => undefined,
    });
    expect(await screen.findByRole('heading', { name: 'Subject 1' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: /Subject 2/ }));
    const letter = screen.getByRole('article', { name: 'The message' });
    expect(letter).toHaveTextContent('Which? Matt or Glossy. Bye');
    expect(within(letter).getByRole('link', { name: 'Matt' })).toHaveAttribute('href', 'http://sieve.test/c/2');
    await userEvent.click(within(letter).getByRole('button', { name: 'Let it bounce' }));
    expect(await screen.findByText('It came back as undeliverable.')).toBeInTheDocument();
    expect(asked('POST /api/app/post-room/2/act')[0]?.body).toEqual({ do: 'bounce' });
  });

  it('tells nothing sent from nothing found, and says that it lists the latest', async () => {
    openPage('/campaigns/post-room', {
      'GET /api/app/post-room': ({ query }: SentRequest) =>
        query['search'] ? [] : Array.from({ length: POSTS_SHOWN }, (_, n) => post(n + 1)),
    });
    expect(await screen.findByText(`The latest ${POSTS_SHOWN}: search for those before them.`)).toBeInTheDocument();
    await userEvent.type(screen.getByRole('searchbox'), 'zed');
    expect(await screen.findByText('Nothing went out to “zed”')).toBeInTheDocument();
  });
});

describe('messages that are paused', () => {
  it('say so, and are let go by whoever may send', async () => {
    let paused = true;
    const { asked } = openPage('/campaigns/post-room', {
      'GET /api/app/post-room': [],
      'GET /api/app/sending': () => ({ paused }),
      'PUT /api/app/sending': () => ({ paused: (paused = false) }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Let them go' }));
    expect(await screen.findByText('Messages go out again.')).toBeInTheDocument();
    expect(asked('PUT /api/app/sending')[0]?.body).toEqual({ paused: false });
    await waitFor(() => expect(screen.queryByText(/^Messages wait/)).not.toBeInTheDocument());
  });

  it('only say so to whoever may not send', async () => {
    openPage(
      '/campaigns/post-room',
      { 'GET /api/app/post-room': [], 'GET /api/app/sending': { paused: true } },
      { may: ['campaigns:read'] },
    );
    expect(await screen.findByText(/^Messages wait/)).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Let them go' })).not.toBeInTheDocument();
  });
});
