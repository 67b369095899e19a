import { SharedClock } from './clock';

/** What the process that loads the demo tells its server. */
interface Told {
  readonly moveTo?: number;
}

/**
 * A clock that stands until the process that started the server moves it on, and tells it then: so a demo can live through months in a minute.
 * Only the parent process can; nothing that comes over the network does.
 *
 * @param moved called when it has been moved, for whoever waits for the time
 */
export function toldClock(start: number, moved: () => void): SharedClock {
  const clock = SharedClock.standingAt(start);
  process.on('message', ({ moveTo }: Told) => {
    if (typeof moveTo !== 'number' || !Number.isFinite(moveTo)) return;
    clock.moveTo(moveTo);
    moved();
    process.send?.({ movedTo: clock.now() });
  });
  return clock;
}
