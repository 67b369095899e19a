import { readFact } from '../contacts/facts.ts';
import { type ConsentChannel } from '../settings/consent.ts';
import { type Signal } from '../intake/signal.ts';
import { type Change } from '../ledger/change.ts';
import { answered } from './answers.ts';
import { countryOfZone } from '../time/country.ts';
import { type Compiled } from './compiled.ts';
import { mapChanges } from './maps.ts';
import { type SubjectState } from './state.ts';

const CHANNELS: readonly string[] = ['email', 'text', 'chat'];

/**
 * What a signal changes by what it is, before any rule: consent given and withdrawn, an address that cannot be reached,
 * the language of a visitor's browser, the answers that a form keeps in fields or turns into tags, the tag of a chosen link, and what signal maps say.
 *
 * @param data the signal's details as they came: what people wrote is kept as they wrote it
 */
export function signalChanges(compiled: Compiled, state: SubjectState, signal: Signal, data: unknown): readonly Change[] {
  const maps = signal.historic ? [] : compiled.mapsOnSignal(signal.typeId).flatMap((map) => mapChanges(map, signal, state));
  return [...ownChanges(compiled, state, signal, data), ...maps];
}

function ownChanges(compiled: Compiled, state: SubjectState, signal: Signal, data: unknown): readonly Change[] {
  const { catalogue } = compiled;
  const type = catalogue.get('signalType', signal.typeId)?.key ?? '';
  const channel = signal.details['channel'];
  const consent = (wanted: 'given' | 'withdrawn' | 'undeliverable', of: unknown): readonly Change[] =>
    CHANNELS.includes(of as string) ? [{ kind: 'consent', channel: of as ConsentChannel, state: wanted, at: signal.time }] : [];
  switch (type) {
    case 'consent.given':
      return consent('given', channel);
    case 'consent.withdrawn':
      return consent('withdrawn', channel);
    case 'message.unsubscribed':
      return consent('withdrawn', channel ?? 'email');
    case 'message.bounced':
      return signal.details['hard'] === 1 ? consent('undeliverable', channel ?? 'email') : [];
    case 'message.clicked':
      return chosenLink(compiled, signal);
    case 'page.visited':
      return told(compiled, data);
    case 'form.answered':
      return answered(compiled, state, signal, data);
    default:
      return [];
  }
}

/** What a browser says of itself, and the country in which its time zone lies. */
const BROWSER_FIELDS = [
  { property: 'language', key: 'browser-language', valueOf: (said: string) => said },
  { property: 'timeZone', key: 'browser-time-zone', valueOf: (said: string) => said },
  { property: 'timeZone', key: 'browser-country', valueOf: countryOfZone },
] as const;

/** What a visit tells of whoever visits: the language, the time zone and by it the country of their browser, kept apart from what anybody stated. */
function told(compiled: Compiled, data: unknown): readonly Change[] {
  if (typeof data !== 'object' || data === null) return [];
  return BROWSER_FIELDS.flatMap(({ property, key, valueOf }): readonly Change[] => {
    const said = (data as Readonly<Record<string, unknown>>)[property];
    const field = compiled.catalogue.find('field', key);
    if (!field || typeof said !== 'string' || said.trim() === '' || said.length > 60) return [];
    const value = valueOf(said);
    if (value === undefined) return [];
    const read = readFact(field.body, value, compiled.catalogue.workspace);
    return read.ok ? [{ kind: 'field', field: field.id, value: read.value }] : [];
  });
}

function chosenLink(compiled: Compiled, signal: Signal): readonly Change[] {
  const { catalogue } = compiled;
  const { campaign, link } = signal.details;
  const message = typeof campaign === 'string' ? catalogue.find('message', campaign) : undefined;
  const chosen = message?.body.links.find((each) => each.key === link);
  if (!message || compiled.isBroken(message.id) || chosen?.tag === undefined) return [];
  return [{ kind: 'tag', tag: chosen.tag, add: true, reason: { kind: 'link', ref: `${message.id}/${chosen.key}` } }];
}
