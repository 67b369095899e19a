import { type CloudEvent } from '@eager-sieve/contracts';
import { makeEverydaySignals } from './everyday';
import { makeTradeSignals, type makeLinks } from './trade';
import { makeSignals, type DemoContact } from './world';

/** All that happened before `now` in the demo, the oldest first: about twelve signals a contact. */
export const signalsOfDemo = (contacts: readonly DemoContact[], links: ReturnType<typeof makeLinks>, now: number): CloudEvent[] =>
  [...makeSignals(contacts, now), ...makeTradeSignals(contacts, links, now), ...makeEverydaySignals(contacts, now)].sort((a, b) =>
    String(a.time).localeCompare(String(b.time)),
  );
