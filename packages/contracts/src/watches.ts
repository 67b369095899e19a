import { z } from 'zod';
import { importOptionsSchema, importViewSchema } from './intake.ts';

/** Where a watched file lies. */
export const placeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('file'), name: z.string().min(1).max(200).describe('a file in the watched folder') }),
  z.strictObject({
    kind: z.literal('address'),
    url: z
      .url({ protocol: /^https?$/ })
      .max(2_000)
      .describe('on this machine, or on a host that the operator allows'),
  }),
]);
export type Place = z.infer<typeof placeSchema>;

/** Who reads an address that wants a login. */
export const loginSchema = z.strictObject({
  user: z.string().trim().min(1).max(200),
  password: z.string().max(500).optional().describe('it is never shown; left out, the one that is known for the same user and host stays'),
});
export type Login = z.infer<typeof loginSchema>;

/** When a watched file is looked at. */
export const timetableSchema = z.union([
  z.strictObject({ everyMinutes: z.int().min(1).max(1_440) }),
  z.strictObject({ hour: z.int().min(0).max(23).describe('once a day, at this hour of the workspace') }),
]);
export type Timetable = z.infer<typeof timetableSchema>;

/** A file that is looked at by a timetable and read whenever it has changed. */
export const watchBodySchema = z.strictObject({
  name: z.string().trim().min(1).max(80),
  isOn: z.boolean().default(true),
  place: placeSchema,
  login: loginSchema.optional().describe('for an address that wants one'),
  timetable: timetableSchema,
  options: importOptionsSchema.describe('how it is read, as a file that is imported'),
  gone: z
    .strictObject({
      takeOff: z.boolean().default(false).describe('the tags and the list of all rows are taken from them'),
      tag: z.string().max(80).optional().describe('they get this tag, until they are in it again'),
    })
    .default({ takeOff: false })
    .describe('what happens to contacts that were in it and are not any more'),
});
export type WatchBody = z.infer<typeof watchBodySchema>;

export const watchViewSchema = watchBodySchema.extend({
  login: loginSchema.pick({ user: true }).nullable(),
  id: z.int(),
  readAt: z.string().nullable().describe('when it was looked at last'),
  nextAt: z.string().nullable(),
  error: z.string().nullable().describe('why it could not be read the last time'),
  people: z.int().describe('how many were in it the last time'),
  held: z.int().describe('how many are gone from it and wait for somebody to say whether that is right'),
  heldNames: z.array(z.string()).describe('the first of them, by name'),
  last: importViewSchema.nullable().describe('the last time that it had changed and was read'),
});
export type WatchView = z.infer<typeof watchViewSchema>;

export const madeWatchSchema = z.object({ id: z.int() });
export const goneAnswerSchema = z.strictObject({
  act: z.boolean().describe('what is set for those who are gone is done; otherwise they stay as they are'),
});

/** What can be watched: the files of the folder, and the hosts beside this machine. */
export const watchedPlacesSchema = z.object({
  folder: z.string().nullable().describe('the watched folder; null where there is none'),
  files: z.array(z.object({ name: z.string(), bytes: z.int(), changedAt: z.string() })),
  hosts: z.array(z.string()),
});
export type WatchedPlaces = z.infer<typeof watchedPlacesSchema>;
export const watchedHeadSchema = z.object({
  name: z.string(),
  bytes: z.int(),
  head: z.string().describe('how it begins, in base64'),
});
export const lookAtPlaceSchema = watchBodySchema
  .pick({ place: true, login: true })
  .extend({ watch: z.int().optional().describe('the watched file that it is, whose password is known') });
export const rehearseWatchSchema = lookAtPlaceSchema.extend({ options: importOptionsSchema });
