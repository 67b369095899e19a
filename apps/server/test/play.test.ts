import { setTimeout as wait } from 'node:timers/promises';
import { type PlayState, type Stream, type TakeBackAnswer } from '@eager-sieve/contracts';
import { event, serverWith } from './harness';
import { SET_UP } from './world';

describe('play', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const state = async (): Promise<PlayState> => (await http().get('/api/app/play').set(admin()).expect(200)).body as PlayState;
  const start = (body: object) => http().post('/api/app/play').set(admin()).send(body);

  it('is not offered where nobody is made up', async () => {
    await server().signals(event('order.placed', 'real@person.test', { order: '1', amount: 5, currency: 'SEK' }));
    expect(await state()).toEqual({ isOffered: false, types: [], running: null, played: 0 });
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

  it('is taken back: the signals and all that came of them are gone, and what else came stays', async () => {
    const { played } = await state();
    expect(played).toBeGreaterThanOrEqual(20);
    const before = await server().verify();
    const ask = async (rehearse: boolean): Promise<TakeBackAnswer> =>
      server().takenBack((await http().post('/api/app/play/take-back').query({ rehearse }).set(admin()).expect(200)).body);
    const rehearsed = await ask(true);
    expect(rehearsed).toMatchObject({ rehearsed: true, signals: played, subjects: 1 });
    expect((await state()).played).toBe(played);
    const taken = await ask(false);
    expect(taken).toEqual({ ...rehearsed, rehearsed: false, run: expect.objectContaining({ state: 'done' }) as unknown });
    expect((await state()).played).toBe(0);
    const left = (await http().get('/api/app/stream?limit=500').set(admin()).expect(200)).body as Stream;
    expect(left.rows.map(({ type, name }) => `${type} ${name}`).sort()).toEqual([
      'consent.given anna@made-up.example',
      'order.placed anna@made-up.example',
      'order.placed real@person.test',
    ]);
    expect(before.differences).toBe(0);
    expect((await server().verify()).differences).toBe(0);
    expect((await ask(true)).signals).toBe(0);
  });
});
