import { type LiveSignal, type PlayState, type SourceHealth } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, openPart, Refused, type SentRequest } from '../testing/page';
import { Play } from './play';
import { Sources } from './sources';

const STREAM = 'GET /api/app/stream';
const SOURCES = 'GET /api/app/sources';
const signal = (id: number, more: Partial<LiveSignal> = {}): LiveSignal => ({
  id,
  time: '2026-05-01T08:00:00Z',
  type: 'order.placed',
  verb: 'ordered',
  summary: 'Celadon glaze',
  contact: 'c1',
  name: `Anna ${id}`,
  source: 'shop',
  did: [],
  more: 0,
  ...more,
});
const shop: SourceHealth = { name: 'shop', last: '2026-05-01T08:00:00Z', lastDay: 3, usual: 40, longestSilence: 9, isUnusual: false };

describe('the stream', () => {
  it('says who did what, and what it did', async () => {
    const did = ['Tag glaze.buyer added', 'Came into Glaze buyers'];
    openPage('/intake/stream', { [STREAM]: { rows: [signal(1, { did, more: 4 })], after: null }, [SOURCES]: [shop] });
    const row = within(await screen.findByRole('list', { name: 'Signals' })).getByRole('listitem');
    expect(row).toHaveTextContent('Anna 1 ordered: Celadon glaze');
    expect(row).toHaveTextContent('Tag glaze.buyer added · Came into Glaze buyers · 4 more');
    expect(within(row).getByRole('link', { name: '4 more' })).toHaveAttribute('href', '/people/c1');
  });

  it('is narrowed by what stands in its address, and says where nothing of it came', async () => {
    const { asked, at } = openPage('/intake/stream?source=shop', {
      [STREAM]: ({ query }: SentRequest) => ({ rows: query['did'] ? [] : [signal(1)], after: null }),
      [SOURCES]: [shop],
    });
    await screen.findByText('Anna 1');
    expect(asked(STREAM)[0]?.query).toMatchObject({ source: 'shop' });
    await userEvent.click(screen.getByLabelText('only what moved somebody'));
    expect(await screen.findByText('Nothing of that kind has come in')).toBeInTheDocument();
    expect(at()).toBe('/intake/stream?source=shop&did=true');
    await userEvent.type(screen.getByLabelText('Who'), 'ann{Enter}');
    await waitFor(() => expect(asked(STREAM).at(-1)?.query).toMatchObject({ source: 'shop', did: 'true', who: 'ann' }));
    await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
    expect(at()).toBe('/intake/stream');
  });

  it('stands still while it is paused', async () => {
    openPage('/intake/stream', { [STREAM]: { rows: [signal(1)], after: null }, [SOURCES]: [] });
    await screen.findByText('Anna 1');
    await userEvent.click(screen.getByRole('button', { name: 'Pause' }));
    expect(screen.getByText('Anna 1')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: /^Go on/ }));
    expect(screen.getByRole('button', { name: 'Pause' })).toBeInTheDocument();
  });

  it('says that nothing came, or why it cannot be shown', async () => {
    openPage('/intake/stream', { [STREAM]: { rows: [], after: null }, [SOURCES]: [] });
    expect(await screen.findByText('Nothing has come in yet')).toBeInTheDocument();
  });

  it('says why it cannot be shown', async () => {
    openPage('/intake/stream', { [STREAM]: new Refused(503, { title: 'The database is away.' }), [SOURCES]: [] });
    expect(await screen.findByText('The database is away.')).toBeInTheDocument();
  });
});

describe('play', () => {
  const PLAY = 'GET /api/app/play';
  const RESTS: PlayState = { isOffered: true, types: ['order.placed'], running: null, played: 0 };

  it('is not spoken of where nobody is made up', async () => {
    const { asked } = openPart(<Play />, { [PLAY]: { ...RESTS, isOffered: false } });
    await waitFor(() => expect(asked(PLAY)).toHaveLength(1));
    expect(screen.queryByText(/made-up people/)).not.toBeInTheDocument();
  });

  it('begins at a pace with what is chosen, says how much has come, and is stopped', async () => {
    let state: PlayState = RESTS;
    const [START, STOP] = ['POST /api/app/play', 'DELETE /api/app/play'];
    const running = { pace: 300, seed: 5, since: '2026-05-01T08:00:00Z', sent: 17 };
    const { asked } = openPart(<Play />, {
      [PLAY]: () => state,
      [START]: () => void (state = { ...RESTS, running }),
      [STOP]: () => void (state = RESTS),
    });
    await userEvent.click(await screen.findByText(/Play: let made-up people/));
    await userEvent.selectOptions(screen.getByLabelText('Pace'), '300 a minute');
    await userEvent.selectOptions(screen.getByLabelText('What they do'), 'ordered');
    await userEvent.clear(screen.getByLabelText('seed'));
    await userEvent.type(screen.getByLabelText('seed'), '5');
    await userEvent.click(screen.getByRole('button', { name: 'Play' }));
    expect(await screen.findByText(/17 signals so far/)).toBeInTheDocument();
    expect(asked(START)[0]?.body).toEqual({ pace: 300, seed: 5, types: ['order.placed'] });
    await userEvent.click(screen.getByRole('button', { name: 'Stop' }));
    expect(await screen.findByRole('button', { name: 'Play' })).toBeInTheDocument();
    expect(asked(STOP)).toHaveLength(1);
  });
});

describe('what was played', () => {
  it('is taken back when somebody has seen what that undoes', async () => {
    const PLAY = 'GET /api/app/play';
    const BACK = 'POST /api/app/play/take-back';
    let played = 3;
    const answer = { signals: 3, effects: 5, subjects: 2, changes: { 'tag removed': 2 }, samples: [], stays: [], stay: 0, run: null };
    const { asked } = openPart(<Play />, {
      [PLAY]: () => ({ isOffered: true, types: ['order.placed'], running: null, played }),
      [BACK]: ({ query }) => {
        const rehearsed = query['rehearse'] === 'true';
        if (!rehearsed) played = 0;
        return { ...answer, rehearsed };
      },
    });
    await userEvent.click(await screen.findByText(/Play: let made-up people/));
    expect(screen.getByText(/3 signals that were played are here/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Take back what was played' }));
    expect(await screen.findByText(/3 signals and 5 effects would be taken back on 2 people/)).toBeInTheDocument();
    expect(asked(BACK)).toHaveLength(1);
    await userEvent.click(screen.getByRole('button', { name: 'Take back' }));
    expect(await screen.findByText(/3 signals and 5 effects taken back/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    await waitFor(() => expect(screen.queryByRole('button', { name: 'Take back what was played' })).not.toBeInTheDocument());
  });
});

describe('the sources', () => {
  it('say how much comes from each, and which is silent for too long', async () => {
    openPart(<Sources />, { [SOURCES]: [shop, { ...shop, name: 'post', isUnusual: true }] });
    expect(await screen.findByRole('link', { name: 'post' })).toHaveAttribute('href', '/intake/stream?source=post');
    expect(screen.getAllByText(/3 signals in 24 hours, usually 40 a day/)).toHaveLength(2);
    expect(screen.getAllByText(/Silent for unusually long/)).toHaveLength(1);
  });
});
