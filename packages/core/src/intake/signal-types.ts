import { z } from 'zod';
import { nameSchema, synonymsSchema } from '../settings/keys.ts';

export const directionSchema = z.enum(['from them', 'from us', 'neither']);
export type Direction = z.infer<typeof directionSchema>;

/** What one detail of a signal is. A `list` holds objects of its own details; `answers` holds whatever a form asks. */
export interface DetailField {
  readonly key: string;
  readonly type: 'text' | 'number' | 'money' | 'date' | 'date-time' | 'yes/no' | 'list' | 'answers';
  readonly required?: boolean | undefined;
  /** what it is called, where the words of its key do not say it */
  readonly label?: string | undefined;
  readonly of?: readonly DetailField[] | undefined;
}

export const detailFieldSchema: z.ZodType<DetailField> = z.strictObject({
  key: z.string().regex(/^[a-z][a-zA-Z0-9]{0,39}$/),
  type: z.enum(['text', 'number', 'money', 'date', 'date-time', 'yes/no', 'list', 'answers']),
  required: z.boolean().optional(),
  label: z
    .string()
    .trim()
    .max(40)
    .regex(/^[\p{L}\p{N}][\p{L}\p{N} ’'-]*$/u, 'letters, digits and spaces')
    .optional(),
  get of() {
    return z.array(detailFieldSchema).optional();
  },
});

/** What a detail is called among others: by its label, or by its key where another one goes by that label too. */
export function detailName(field: DetailField, fields: readonly DetailField[]): string {
  const label = ownLabel(field);
  const isTaken = fields.some((other) => other.key !== field.key && (other.key === label || ownLabel(other) === label));
  return isTaken ? field.key : label;
}
const ownLabel = ({ label, key }: DetailField): string => label ?? key.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** One of the things in a list: `an item` */
export const oneOfList = (field: DetailField, fields: readonly DetailField[]): string =>
  field.key === 'items' ? 'an item' : `one of ${detailName(field, fields)}`;

/** What a path leads to, in words: `quantity of items` */
export function pathWords(path: string, fields: readonly DetailField[]): string {
  const [first, ...inner] = path.split('.');
  const field = fields.find(({ key }) => key === first);
  if (!field) return path;
  const name = detailName(field, fields);
  return inner.length === 0 ? name : `${pathWords(inner.join('.'), field.of ?? [])} of ${name}`;
}

/**
 * A type of signal. `verb` begins its sentences ("ordered"), `fields` are its details. `participle` is the first word of the verb behind
 * "has", `present` the one of what happens now, where they are others ("driven", "drives"); `one` and `many` are what counts ("a rental", "rentals").
 */
export const signalTypeBodySchema = z.strictObject({
  direction: directionSchema,
  verb: z.string().trim().min(1).max(60),
  participle: z
    .string()
    .trim()
    .regex(/^\S{1,40}$/, 'one word')
    .optional(),
  present: z
    .string()
    .trim()
    .regex(/^\S{1,40}$/, 'one word')
    .optional(),
  one: nameSchema.optional(),
  many: nameSchema.optional(),
  synonyms: synonymsSchema,
  fields: z.array(detailFieldSchema).max(40),
  /** for how many days each is kept; for ever, where it is left out */
  keepDays: z.int().min(1).max(3_650).optional(),
});
export type SignalTypeBody = z.infer<typeof signalTypeBodySchema>;

const text = (key: string, required = false): DetailField => ({ key, type: 'text', required });
const items: DetailField = {
  key: 'items',
  type: 'list',
  of: [text('product', true), text('line'), { key: 'quantity', type: 'number' }, { key: 'amount', type: 'money' }],
};
const money: readonly DetailField[] = [{ key: 'amount', type: 'money' }, text('currency')];
const address: DetailField = { ...text('url'), label: 'address' };
const message: readonly DetailField[] = [text('channel'), text('campaign'), text('link'), address];

const until: DetailField = { key: 'until', type: 'date-time', label: 'end' };
const deal: readonly DetailField[] = [text('deal', true), { ...text('from'), label: 'former stage' }, text('stage'), ...money];

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
  type('checkout.left', 'checkout left', 'left the checkout', 'from them', [items, ...money]),
  type('plan.started', 'plan started', 'started a plan', 'from them', [text('plan', true), until]),
  type('plan.renewed', 'plan renewed', 'renewed a plan', 'from them', [text('plan', true), until]),
  type('plan.lapsed', 'plan lapsed', 'let a plan lapse', 'neither', [text('plan', true)]),
  type('message.sent', 'message sent', 'was sent a message', 'from us', message),
  type('message.bounced', 'message bounced', 'bounced a message', 'neither', [
    ...message,
    { key: 'hard', type: 'yes/no', label: 'for good' },
  ]),
  type('message.opened', 'message opened', 'opened a message', 'from them', message),
  type('message.clicked', 'message clicked', 'clicked in a message', 'from them', message),
  type('message.replied', 'message replied to', 'replied to a message', 'from them', message),
  type('message.received', 'message received', 'wrote to us', 'from them', message),
  type('message.unsubscribed', 'unsubscribed', 'unsubscribed', 'from them', message),
  type('page.visited', 'page visited', 'visited a page', 'from them', [address, text('path'), text('title')]),
  type('file.downloaded', 'file downloaded', 'downloaded a file', 'from them', [text('file', true)]),
  type('event.registered', 'event registered for', 'registered for an event', 'from them', [text('event', true)]),
  type('event.attended', 'event attended', 'attended an event', 'from them', [text('event', true)]),
  type('event.missed', 'event missed', 'missed an event', 'neither', [text('event', true)]),
  type('call.made', 'call made', 'was called', 'from us', [{ key: 'answered', type: 'yes/no' }, text('subject')]),
  type('call.received', 'call received', 'called us', 'from them', [text('subject')]),
  type('meeting.held', 'meeting held', 'met with us', 'from us', [text('subject')]),
  type('note.added', 'note added', 'had a note written', 'from us', [text('subject')]),
  type('post.reacted', 'post reacted to', 'reacted to a post', 'from them', [text('network', true), text('reaction')]),
  type('role.given', 'role given', 'was given a role', 'neither', [text('role', true)]),
  type('role.taken', 'role taken', 'had a role taken', 'neither', [text('role', true)]),
  type('group.joined', 'group joined', 'joined a group', 'from them', [text('group', true)]),
  type('group.left', 'group left', 'left a group', 'from them', [text('group', true)]),
  type('course.started', 'course started', 'started a course', 'from them', [text('course', true)]),
  type('course.finished', 'course finished', 'finished a course', 'from them', [text('course', true), { key: 'mark', type: 'number' }]),
  type('deal.opened', 'deal opened', 'had a deal opened', 'neither', deal),
  type('deal.moved', 'deal moved', 'had a deal moved on', 'neither', deal),
  type('deal.won', 'deal won', 'agreed to a deal', 'neither', deal),
  type('deal.lost', 'deal lost', 'had a deal lost', 'neither', deal),
  type('consent.given', 'consent given', 'gave consent', 'from them', [text('channel', true)]),
  type('consent.withdrawn', 'consent withdrawn', 'withdrew consent', 'from them', [text('channel', true)]),
] as const;

declare module '../settings/definitions.ts' {
  interface Bodies {
    signalType: SignalTypeBody;
  }
}
