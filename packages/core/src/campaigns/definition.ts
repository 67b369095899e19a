import { z } from 'zod';
import { nameSchema, keySchema, shelved } from '../settings/keys.ts';

/** An answer that a recipient gives by a click: the click is a signal, and leads on to its page. */
const choiceLinkOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.strictObject({
    key: keySchema,
    label: nameSchema,
    /** where a click leads; without one, to a page of thanks */
    destination: z
      .url({ protocol: /^https?$/ })
      .max(2_000)
      .optional(),
    /** the tag that choosing it gives */
    tag: ref.optional(),
  });

/** Where a message says what is said to whoever has a tag. The words are those of the tag, so that all messages say the same. */
const tagTextOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.strictObject({
    /** how its place is written in the text */
    key: keySchema,
    tag: ref,
    /** what is said to everybody else; nothing, if left out */
    otherwise: z.string().trim().min(1).max(2_000).optional(),
  });

/** How long the links of a message note what is chosen, unless the message says otherwise. */
export const LINKS_LAST_DAYS = 180;

const messageOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.strictObject({
    ...shelved,
    channel: z.literal('email').default('email'),
    subject: z.string().trim().min(1).max(200),
    text: z.string().min(1).max(20_000),
    links: z.array(choiceLinkOver(ref)).max(20).default([]),
    tagTexts: z.array(tagTextOver(ref)).max(20).optional(),
    audience: ref.optional(),
    /** after so many days its links note nothing any more; `LINKS_LAST_DAYS` if left out */
    linksLastDays: z.int().min(1).max(3_650).optional(),
  });

export const writtenMessageSchema = messageOver(z.string());
export const messageBodySchema = messageOver(z.int());
export type WrittenMessage = z.infer<typeof writtenMessageSchema>;
export type MessageBody = z.infer<typeof messageBodySchema>;
export type ChoiceLink = MessageBody['links'][number];
export type TagText = NonNullable<MessageBody['tagTexts']>[number];

declare module '../settings/definitions.ts' {
  interface Bodies {
    message: MessageBody;
  }
}
