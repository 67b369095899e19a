import { z } from 'zod';

export const putPinSchema = z.strictObject({
  subject: z.string().min(1).max(320).describe('the id or email address of a contact, or the id or outside id of a company'),
  in: z.boolean().describe('always in, or never'),
  reason: z.string().trim().min(1).max(300),
  until: z.string().max(40).nullable().default(null).describe('a day or an instant from which on it stands no more'),
});
export type PutPin = z.input<typeof putPinSchema>;

export const pinViewSchema = z.object({
  subject: z.string(),
  name: z.string(),
  in: z.boolean(),
  reason: z.string(),
  since: z.string(),
  until: z.string().nullable(),
  by: z.string(),
});
export type PinView = z.infer<typeof pinViewSchema>;
export const pinsAnswerSchema = z.object({
  pins: z.array(pinViewSchema).describe('the latest of them'),
  all: z.int().describe('how many there are'),
});
export type PinsAnswer = z.infer<typeof pinsAnswerSchema>;
