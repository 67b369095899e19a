import { z } from 'zod';

export const directionSchema = z.enum(['from them', 'from us', 'neither']);
export type Direction = z.infer<typeof directionSchema>;

/** What one detail of a signal is. A `list` holds objects of its own details; `answers` holds whatever a form asks. */
export interface DetailField {
  readonly key: string;
  readonly type: 'text' | 'number' | 'money' | 'date-time' | 'yes/no' | 'list' | 'answers';
  readonly required?: boolean | undefined;
  readonly of?: readonly DetailField[] | undefined;
}

export const detailFieldSchema: z.ZodType<DetailField> = z.strictObject({
  key: z.string().regex(/^[a-z][a-zA-Z0-9]{0,39}$/),
  type: z.enum(['text', 'number', 'money', 'date-time', 'yes/no', 'list', 'answers']),
  required: z.boolean().optional(),
  get of() {
    return z.array(detailFieldSchema).optional();
  },
});

/** A type of signal. `verb` begins its sentences ("ordered"), `fields` are its details. */
export const signalTypeBodySchema = z.strictObject({
  direction: directionSchema,
  verb: z.string().min(1).max(60),
  fields: z.array(detailFieldSchema).max(40),
});
export type SignalTypeBody = z.infer<typeof signalTypeBodySchema>;

const text = (key: string, required = false): DetailField => ({ key, type: 'text', required });
const items: DetailField = {
  key: 'items',
  type: 'list',
  of: [text('product', true), text('line'), { key: 'quantity', type: 'number' }, { key: 'amount', type: 'money' }],
};
const money: readonly DetailField[] = [{ key: 'amount', type: 'money' }, text('currency')];
const message: readonly DetailField[] = [text('channel'), text('campaign'), text('link'), text('url')];

const type = (key: string, name: string, verb: string, direction: Direction, fields: readonly DetailField[]) => ({
  key,
  name,
  body: { direction, verb, fields: [...fields] } satisfies SignalTypeBody,
});

/** The types of signals that every workspace has, in the order in which a person picks from them. */
export const builtInSignalTypes = [
  type('form.answered', 'form answered', 'answered a form', 'from them', [
    text('form', true),
    { key: 'version', type: 'number' },
    { key: 'answers', type: 'answers' },
  ]),
  type('order.placed', 'order placed', 'ordered', 'from them', [text('order', true), items, ...money]),
  type('order.refunded', 'order refunded', 'was refunded', 'neither', [text('order', true), items, ...money]),
  type('message.sent', 'message sent', 'was sent a message', 'from us', message),
  type('message.bounced', 'message bounced', 'bounced a message', 'neither', [...message, { key: 'hard', type: 'yes/no' }]),
  type('message.opened', 'message opened', 'opened a message', 'from them', message),
  type('message.clicked', 'message clicked', 'clicked in a message', 'from them', message),
  type('message.replied', 'message replied to', 'replied to a message', 'from them', message),
  type('message.unsubscribed', 'unsubscribed', 'unsubscribed', 'from them', message),
  type('page.visited', 'page visited', 'visited a page', 'from them', [text('url'), text('path'), text('title')]),
  type('event.registered', 'event registered for', 'registered for an event', 'from them', [text('event', true)]),
  type('event.attended', 'event attended', 'attended an event', 'from them', [text('event', true)]),
  type('consent.given', 'consent given', 'gave consent', 'from them', [text('channel', true)]),
  type('consent.withdrawn', 'consent withdrawn', 'withdrew consent', 'from them', [text('channel', true)]),
] as const;
