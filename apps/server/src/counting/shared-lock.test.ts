import fc from 'fast-check';
import { SharedLock } from './shared-lock';

const moment = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

describe('a lock', () => {
  it('lets many read together and one write alone, whatever the order in which they come', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.boolean(), fc.nat(4), fc.nat(3)), { maxLength: 20 }), async (asks) => {
        const lock = new SharedLock();
        let [reading, writing, done] = [0, 0, 0];
        await Promise.all(
          asks.map(async ([writes, lasts, after]) => {
            for (let n = 0; n < after; n += 1) await moment();
            await (writes ? lock.write : lock.read).call(lock, async () => {
              if (writes) writing += 1;
              else reading += 1;
              for (let n = 0; n <= lasts; n += 1) {
                expect(writing === 0 || (writing === 1 && reading === 0)).toBe(true);
                await moment();
              }
              if (writes) writing -= 1;
              else reading -= 1;
              done += 1;
            });
          }),
        );
        expect(done).toBe(asks.length);
      }),
    );
  });

  it('is let go by what fails, and lets whoever waits to write go first', async () => {
    const lock = new SharedLock();
    const order: string[] = [];
    const first = lock.read(async () => {
      await moment();
      order.push('read');
    });
    const failing = lock.write(() => Promise.reject(new Error('no')));
    const later = lock.read(() => Promise.resolve(order.push('later')));
    await expect(failing).rejects.toThrow('no');
    await Promise.all([first, later]);
    expect(order).toEqual(['read', 'later']);
  });
});
