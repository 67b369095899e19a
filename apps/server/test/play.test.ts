import { setTimeout as wait } from 'node:timers/promises';
import { type PlayState, type Stream } from '@eager-sieve/contracts';
import { event, serverWith } from './harness';
import { SET_UP } from './world';

describe('play', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const state = async (): Promise<PlayState> => (await http().get('/api/app/play').set(admin()).expect(200)).body as PlayState;
  const start = (body: object) => http().post('/api/app/play').set(admin()).send(body);

  it('is not offered where nobody is made up', async () => {
    await server().signals(event('order.placed', 'real@person.test', { order: '1', amount: 5, currency: 'SEK' }));
    expect(await state()).toEqual({ isOffered: false, types: [], running: null });
    await start({ pace: 60, seed: 1 }).expect(409);
  });

  it('does again what was done, at its pace, by made-up people alone, until it is stopped', async () => {
    await server().signals(
      event('order.placed', 'anna@made-up.example', { order: '2', amount: 7, currency: 'SEK' }),
      event('consent.given', 'anna@made-up.example', { channel: 'email' }),
    );
    expect(await state()).toMatchObject({ isOffered: true, types: ['order.placed'] });
    await start({ pace: 1_200, seed: 7 }).expect(204);
    await start({ pace: 60, seed: 1 }).expect(409);
    await wait(2_300);
    const { running } = await state();
    expect(running).toMatchObject({ pace: 1_200, seed: 7 });
    expect(running?.sent).toBeGreaterThanOrEqual(20);
    await http().delete('/api/app/play').set(admin()).expect(204);
    await server().idle();
    const played = (await http().get('/api/app/stream?source=play&limit=500').set(admin()).expect(200)).body as Stream;
    expect(played.rows.length).toBeGreaterThanOrEqual(20);
    expect(new Set(played.rows.map(({ type, name }) => `${type} ${name}`))).toEqual(new Set(['order.placed anna@made-up.example']));
    expect((await state()).running).toBeNull();
    await start({ pace: 0, seed: 1 }).expect(422);
  });
});
