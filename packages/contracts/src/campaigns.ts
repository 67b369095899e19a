import { z } from 'zod';

export const recipientsViewSchema = z.object({
  audience: z.string(),
  building: z.boolean().describe('a change of definitions is being brought to everyone: the figures still move, and nothing is sent'),
  members: z.int(),
  already: z
    .object({ people: z.int(), last: z.string().nullable() })
    .describe('of the members, how many got this message before, and when it last went out to any of them'),
  receive: z.int(),
  held: z.record(z.string(), z.int()),
  found: z
    .object({ receive: z.int(), held: z.int() })
    .describe('how many of either kind go by what was searched for; `people` are the first of each'),
  people: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      email: z.string().nullable(),
      state: z.enum(['receives', 'held back']),
      why: z.string().nullable(),
      preview: z.object({ subject: z.string(), text: z.string() }).optional(),
    }),
  ),
});
export type RecipientsView = z.infer<typeof recipientsViewSchema>;

/** So many of the latest sends are listed. */
export const SENDS_SHOWN = 50;
export const sendSchema = z.strictObject({ expected: z.int().min(0), again: z.boolean().default(false) });
export const sentSchema = z.object({ id: z.int(), recipients: z.int() });
export const sendViewSchema = z.object({
  id: z.int(),
  message: z.string(),
  messageName: z.string(),
  at: z.string(),
  by: z.string().nullable(),
  audienceName: z.string(),
  recipients: z.int(),
  sent: z.int(),
  heldBack: z.int(),
  inDoubt: z.int(),
  opened: z.int(),
  clicked: z.int(),
  unsubscribed: z.int(),
});
export type SendView = z.infer<typeof sendViewSchema>;

/** So many of the latest are listed; a search finds those before them. */
export const POSTS_SHOWN = 60;
/** A mail to somebody who works here. */
export const staffMailSchema = z.object({ id: z.int(), to: z.string(), subject: z.string(), text: z.string(), at: z.string() });
export type StaffMail = z.infer<typeof staffMailSchema>;

export const postViewSchema = z.object({
  id: z.int(),
  to: z.string(),
  contact: z.string(),
  name: z.string(),
  subject: z.string(),
  at: z.string(),
  text: z.string(),
  links: z.array(z.object({ key: z.string(), label: z.string(), url: z.string() })),
  unsubscribe: z.string().nullable(),
  opened: z.boolean(),
});
export type PostView = z.infer<typeof postViewSchema>;
export const sendingSchema = z.strictObject({ paused: z.boolean().describe('whether messages wait, as after a restore') });
export type Sending = z.infer<typeof sendingSchema>;
export const postActionSchema = z.strictObject({ do: z.enum(['open', 'reply', 'bounce']) });
