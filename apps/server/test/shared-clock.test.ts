import { Worker } from 'node:worker_threads';
import { SharedClock } from '../src/engine/clock';

const START = Date.UTC(2026, 6, 1);
const HOUR = 3_600_000;

describe('a clock that threads share', () => {
  it('stands until it is moved, and never goes back', () => {
    const clock = SharedClock.standingAt(START);
    expect(clock.now()).toBe(START);
    clock.moveTo(START + HOUR);
    clock.moveTo(START - HOUR);
    expect(clock.now()).toBe(START + HOUR);
  });

  it('is as late everywhere as soon as it has been moved', async () => {
    const clock = SharedClock.standingAt(START);
    const thread = new Worker(
      `const { parentPort, workerData } = require('node:worker_threads');
       const at = new BigInt64Array(workerData);
       parentPort.on('message', () => parentPort.postMessage(Number(Atomics.load(at, 0))));`,
      { eval: true, workerData: clock.memory },
    );
    const seen = (): Promise<number> =>
      new Promise((resolve) => {
        thread.once('message', resolve);
        thread.postMessage('');
      });
    expect(await seen()).toBe(START);
    clock.moveTo(START + HOUR);
    expect(await seen()).toBe(START + HOUR);
    expect(new SharedClock(clock.memory).now()).toBe(START + HOUR);
    await thread.terminate();
  });
});
