import { type Condition } from '../../schema.ts';
import { type Segment } from '../segment.ts';
import { countOf, detailIs, NEVER, withWithin, type Phrase } from './phrase.ts';

/** `got Your glaze shelf`: a message by its name, with no word of what was done with it, was sent. */
export function messageLine({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  const type = catalogue.find('signalType', 'message.sent');
  if (!type) return undefined;
  const isNot = segment.takeNot();
  segment.takeWord(/^sent$/i);
  segment.takeWord(/^(message|email|e-mail|mail|mailing|newsletter|campaign)$/i);
  const messages = segment.takeAll('message').map(({ key }) => key);
  const within = withWithin(segment.takeWindow());
  const limit = segment.takeLimit();
  const count = isNot ? { count: NEVER } : limit ? { count: countOf(limit) } : {};
  return { kind: 'signal', type: type.id, where: [detailIs('campaign', messages)], ...count, ...within };
}
