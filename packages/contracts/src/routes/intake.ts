import { z } from 'zod';
import {
  importOptionsSchema,
  importRehearsalSchema,
  importViewSchema,
  playStateSchema,
  setAsideSchema,
  sourceHealthSchema,
  startPlaySchema,
} from '../intake.ts';
import { flag, pageSchema } from '../page.ts';
import { type Route } from '../route.ts';
import { streamSchema } from '../today.ts';
import { cloudEventSchema, olderSignalsSchema, signalsAnswerSchema } from '../signals.ts';
import { byNumber } from './params.ts';

/** Options that stand in the address as JSON, since the body is the file itself. */
const importOptionsText = z
  .string()
  .max(20_000)
  .transform((text, context): unknown => {
    try {
      return JSON.parse(text);
    } catch {
      context.addIssue({ code: 'custom', message: 'options of an import, as JSON' });
      return z.NEVER;
    }
  })
  .pipe(importOptionsSchema);

export const INTAKE_ROUTES = {
  olderSignals: {
    method: 'GET',
    path: '/api/app/signal-types/{key}/older',
    does: 'How many signals of a type are older than so many days, and what looks further back all the same.',
    requires: ['definitions:read', 'audiences:read'],
    query: z.object({ days: z.coerce.number().int().min(1).max(3_650) }),
    answers: olderSignalsSchema,
  },
  takeSignals: {
    method: 'POST',
    path: '/api/v1/signals',
    does: 'Takes in signals as CloudEvents 1.0: one, a batch of up to 1,000, or NDJSON without limit.',
    requires: 'signals:write',
    query: z.object({ wait: flag('`true` answers after the signals have been worked, with what they changed') }),
    body: z.union([cloudEventSchema, z.array(cloudEventSchema)]),
    takes: ['application/cloudevents+json', 'application/cloudevents-batch+json', 'application/x-ndjson', 'application/json'],
    answers: signalsAnswerSchema,
    status: 202,
  },
  runImport: {
    method: 'POST',
    path: '/api/app/imports',
    does: 'Takes in contacts from a file. The file is the body; how to read it stands in the address.',
    requires: ['contacts:read', 'contacts:write'],
    query: z.object({ options: importOptionsText }),
    takes: ['text/csv', 'application/x-ndjson', 'text/vcard'],
    answers: importViewSchema,
    status: 201,
  },
  rehearseImport: {
    method: 'POST',
    path: '/api/app/imports/rehearse',
    does: 'What an import would do: who is new, what changes on whom, which rows are refused. Nothing is kept.',
    requires: ['contacts:read', 'contacts:write'],
    query: z.object({ options: importOptionsText }),
    takes: ['text/csv', 'application/x-ndjson', 'text/vcard'],
    answers: importRehearsalSchema,
  },
  importFaults: {
    method: 'GET',
    path: '/api/app/imports/{id}/faults',
    does: 'The rows that an import refused, as they stood in the file, with what is wrong: to be mended and brought in again.',
    requires: 'contacts:read',
    params: byNumber,
    gives: ['text/csv'],
  },
  goOnWithImport: {
    method: 'POST',
    path: '/api/app/imports/{id}/rest',
    does: 'Goes on with an import whose file stopped coming. The body is the rest of the same file.',
    requires: ['contacts:read', 'contacts:write'],
    params: byNumber,
    query: z.object({ from: z.coerce.number<number>().int().min(0).describe('how many bytes of the file are `stored` already') }),
    takes: ['text/csv', 'application/x-ndjson', 'text/vcard'],
    answers: importViewSchema,
    status: 201,
  },
  imports: {
    method: 'GET',
    path: '/api/app/imports',
    does: 'The latest imports.',
    requires: 'contacts:read',
    answers: z.array(importViewSchema),
  },
  import: {
    method: 'GET',
    path: '/api/app/imports/{id}',
    does: 'One import.',
    requires: 'contacts:read',
    params: byNumber,
    answers: importViewSchema,
  },
  cancelImport: {
    method: 'DELETE',
    path: '/api/app/imports/{id}',
    does: 'Stops an import. What it has taken in stays.',
    requires: 'contacts:write',
    params: byNumber,
    status: 204,
  },
  stream: {
    method: 'GET',
    path: '/api/app/stream',
    does: 'What came in, the newest first, and what each signal did.',
    requires: ['signals:read', 'contacts:read'],
    query: pageSchema.extend({
      type: z.string().max(80).optional().describe('the key of a signal type'),
      source: z.string().max(200).optional().describe('where it comes from'),
      who: z.string().max(200).optional().describe('how the name or the address of the contact begins'),
      did: flag('`true` leaves out what moved nobody'),
    }),
    answers: streamSchema,
  },
  play: {
    method: 'GET',
    path: '/api/app/play',
    does: 'Whether made-up people play, and what they can do.',
    requires: 'signals:read',
    answers: playStateSchema,
  },
  startPlay: {
    method: 'POST',
    path: '/api/app/play',
    does: 'Lets made-up people do again what was done lately, at a pace. Only addresses under `.example` are spoken for.',
    requires: 'signals:write',
    body: startPlaySchema,
    status: 204,
  },
  stopPlay: {
    method: 'DELETE',
    path: '/api/app/play',
    does: 'Lets the made-up people rest. What they did stays until it is taken back.',
    requires: 'signals:write',
    status: 204,
  },
  sources: {
    method: 'GET',
    path: '/api/app/sources',
    does: 'Where signals come from, how much, and which have been silent for unusually long.',
    requires: 'audiences:read',
    answers: z.array(sourceHealthSchema),
  },
  tryAllAgain: {
    method: 'POST',
    path: '/api/app/set-aside/again',
    does: 'Tries again all that was set aside because of one error.',
    requires: 'contacts:write',
    body: z.strictObject({ code: z.string().max(100) }),
    answers: z.object({ tried: z.int() }),
  },
  setAside: {
    method: 'GET',
    path: '/api/app/set-aside',
    does: 'What could not be worked and was set aside, so that nothing else has to wait for it.',
    requires: 'contacts:read',
    answers: z.array(setAsideSchema),
  },
  tryAgain: {
    method: 'POST',
    path: '/api/app/set-aside/{id}/again',
    does: 'Tries again what was set aside.',
    requires: 'contacts:write',
    params: byNumber,
    status: 204,
  },
  dropAside: {
    method: 'DELETE',
    path: '/api/app/set-aside/{id}',
    does: 'Drops what was set aside: it is never worked.',
    requires: 'contacts:write',
    params: byNumber,
    status: 204,
  },
} as const satisfies Record<string, Route>;
