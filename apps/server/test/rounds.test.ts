import { Rounds } from '../src/engine/rounds';
import { testDatabase, type TestDatabase } from './harness';

/** Far more rounds than are made by looking from time to time alone. */
const MANY = 40;

describe('rounds', () => {
  let test: TestDatabase;
  let rounds: Rounds | undefined;
  beforeAll(async () => {
    test = await testDatabase();
  });
  afterEach(() => rounds?.stop());
  afterAll(() => test.drop());

  it('follow each other at once while there is more to do, and then wait, as rested', async () => {
    const rested: boolean[] = [];
    await new Promise<void>((resolve) => {
      rounds = new Rounds({
        url: test.url,
        name: 'rounds',
        channels: ['rounds_wake'],
        round: (isRested) => {
          rested.push(isRested);
          if (rested.length > MANY) resolve();
          return Promise.resolve(rested.length < MANY);
        },
        failed: (error) => {
          throw error;
        },
      });
      rounds.start();
    });
    expect(rested).toEqual([true, ...Array.from({ length: MANY - 1 }, () => false), true]);
  });

  it('are woken by any of their channels, and made again after one that failed', async () => {
    const times: number[] = [];
    let made = 0;
    let told: ((isRested: boolean) => void) | undefined;
    rounds = new Rounds({
      url: test.url,
      name: 'rounds',
      channels: ['rounds_wake', 'rounds_more'],
      round: (isRested) => {
        made += 1;
        told?.(isRested);
        return made === 2 ? Promise.reject(new Error('out of order')) : Promise.resolve(false);
      },
      failed: (error, n) => {
        expect(error).toEqual(new Error('out of order'));
        times.push(n);
      },
    });
    rounds.start();
    while (made < 3) await new Promise((resolve) => setTimeout(resolve, 20));
    for (const channel of ['rounds_wake', 'rounds_more']) {
      // A round that follows a rest which nobody broke off is a rested one.
      const woken = new Promise<void>((resolve) => (told = (isRested) => !isRested && resolve()));
      await test.database.query(`select pg_notify($1, '')`, [channel]);
      await woken;
    }
    await rounds.stop();
    expect(times).toEqual([1]);
    const after = made;
    await test.database.query(`select pg_notify('rounds_wake', '')`);
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(made).toBe(after);
  });
});
