import { definitionsDocumentSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { type Capability } from './access.ts';
import * as audiences from './audiences.ts';
import * as companies from './companies.ts';
import * as contacts from './contacts.ts';
import { buildViewSchema, definitionsAnswerSchema, statusSchema, steerBuildSchema } from './definitions.ts';
import { problemSchema } from './problems.ts';
import * as signals from './signals.ts';
import * as tasks from './tasks.ts';

interface Operation {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  readonly path: string;
  readonly does: string;
  readonly needs: Capability | 'any key';
  readonly body?: { readonly schema: z.ZodType; readonly types: readonly string[] };
  /** left out where the answer is empty */
  readonly answers?: z.ZodType;
  readonly status?: number;
  readonly query?: Readonly<Record<string, string>>;
}

const json = (schema: z.ZodType) => ({ schema, types: ['application/json'] });
const paged = { limit: 'at most so many, up to 500', after: 'the value of `after` in the answer before' };

/** The public API as data: the document is made from it, and a test holds it against the routes that the server really has. */
export const operations: readonly Operation[] = [
  {
    method: 'post',
    path: '/signals',
    does: 'Takes in signals as CloudEvents 1.0: one, a batch of up to 1,000, or NDJSON without limit.',
    needs: 'signals:write',
    body: {
      schema: z.union([signals.cloudEventSchema, z.array(signals.cloudEventSchema)]),
      types: ['application/cloudevents+json', 'application/cloudevents-batch+json', 'application/x-ndjson'],
    },
    answers: signals.signalsAnswerSchema,
    status: 202,
    query: { wait: '`true` answers after the signals have been worked, with what they changed' },
  },
  {
    method: 'put',
    path: '/contacts',
    does: 'Makes or changes up to 1,000 contacts.',
    needs: 'contacts:write',
    body: json(contacts.putContactsSchema),
    answers: contacts.putContactsAnswerSchema,
  },
  {
    method: 'get',
    path: '/contacts/{id}',
    does: 'One contact, by id or email address.',
    needs: 'contacts:read',
    answers: contacts.contactViewSchema,
  },
  {
    method: 'get',
    path: '/contacts/{id}/signals',
    does: 'What happened to a contact, the latest first.',
    needs: 'contacts:read',
    answers: contacts.timelineSchema,
    query: paged,
  },
  {
    method: 'get',
    path: '/contacts/{id}/ledger',
    does: 'What was done about a contact and why, the latest first.',
    needs: 'contacts:read',
    answers: contacts.ledgerSchema,
    query: paged,
  },
  {
    method: 'post',
    path: '/contacts/{id}/try',
    does: 'What a signal would do to a contact, worked by the same pass that would run. Nothing is kept.',
    needs: 'contacts:read',
    body: json(contacts.trySignalSchema),
    answers: contacts.tryAnswerSchema,
    status: 200,
  },
  {
    method: 'post',
    path: '/contacts/{id}/merge',
    does: 'Merges another contact into this one: everything is taken over, nothing is set off, and what comes for the other comes here.',
    needs: 'contacts:write',
    body: json(contacts.mergeSchema),
    answers: contacts.mergeAnswerSchema,
    status: 200,
  },
  {
    method: 'post',
    path: '/merges/{id}/take-back',
    does: 'Parts two contacts that were merged: each has again what it had.',
    needs: 'contacts:write',
    status: 204,
  },
  {
    method: 'delete',
    path: '/contacts/{id}',
    does: 'Erases a contact with everything that is known of it. This cannot be taken back; the ledger keeps that it was done.',
    needs: 'contacts:write',
    status: 204,
  },
  {
    method: 'post',
    path: '/ledger/{id}/take-back',
    does: 'Takes an effect back with all that came of it, where the value is still what the effect made it; says what stays and why.',
    needs: 'contacts:write',
    query: { rehearse: '`true` only says what would be taken back and what would stay' },
    answers: contacts.takeBackAnswerSchema,
    status: 200,
  },
  {
    method: 'post',
    path: '/rules/{key}/take-back',
    does: 'Takes back everything that a rule did, or what it did since a time, with all that came of it.',
    needs: 'definitions:write',
    query: { rehearse: '`true` only says what would be taken back and what would stay' },
    body: json(contacts.takeBackRuleSchema),
    answers: contacts.takeBackAnswerSchema,
    status: 200,
  },
  {
    method: 'get',
    path: '/tasks',
    does: 'What people are to do about contacts and companies: open ones by when they are due, or done ones, the latest first.',
    needs: 'contacts:read',
    answers: tasks.tasksAnswerSchema,
    query: {
      ...paged,
      for: 'a sign-in address: only theirs, and those for anyone',
      contact: 'id or email address: only those about this contact',
      company: 'id or outside id: only those about this company',
      state: '`open`, or `done`',
    },
  },
  {
    method: 'post',
    path: '/tasks',
    does: 'Makes a task about a contact.',
    needs: 'contacts:write',
    body: json(tasks.newTaskSchema),
    answers: tasks.taskSchema,
    status: 201,
  },
  {
    method: 'put',
    path: '/tasks/{id}',
    does: 'Says that a task is done, or is not, or changes what is to be done, by when and by whom.',
    needs: 'contacts:write',
    body: json(tasks.changeTaskSchema),
    answers: tasks.taskSchema,
  },
  {
    method: 'put',
    path: '/companies',
    does: 'Makes or changes up to 1,000 companies.',
    needs: 'contacts:write',
    body: json(companies.putCompaniesSchema),
    answers: companies.putCompaniesAnswerSchema,
  },
  {
    method: 'get',
    path: '/companies/{id}',
    does: 'One company, by id or outside id, with its contacts and deals.',
    needs: 'contacts:read',
    answers: companies.companyViewSchema,
  },
  {
    method: 'get',
    path: '/companies/{id}/ledger',
    does: 'What was done to a company, and why, the latest first.',
    needs: 'contacts:read',
    answers: contacts.ledgerSchema,
    query: paged,
  },
  {
    method: 'put',
    path: '/deals',
    does: 'Makes or changes up to 1,000 deals. A deal that is opened, moved on, won or lost is also a signal of its contact.',
    needs: 'contacts:write',
    body: json(companies.putDealsSchema),
    answers: companies.putDealsAnswerSchema,
  },
  {
    method: 'post',
    path: '/audiences/count',
    does: 'Counts exactly who a condition holds for, with the sieve of its lines if wanted.',
    needs: 'audiences:read',
    body: json(audiences.countSchema),
    answers: audiences.countAnswerSchema,
    status: 200,
  },
  {
    method: 'post',
    path: '/audiences/people',
    does: 'The contacts that a condition holds for.',
    needs: 'audiences:read',
    body: json(audiences.peopleSchema),
    answers: audiences.peopleAnswerSchema,
    status: 200,
  },
  {
    method: 'post',
    path: '/audiences/explain',
    does: 'Whether and why a condition holds for a contact, and when that can change by itself.',
    needs: 'audiences:read',
    body: json(audiences.explainSchema),
    answers: audiences.explainAnswerSchema,
    status: 200,
  },
  {
    method: 'get',
    path: '/audiences',
    does: 'The audiences that are defined.',
    needs: 'audiences:read',
    answers: audiences.audiencesAnswerSchema,
  },
  { method: 'get', path: '/audiences/{key}', does: 'One audience.', needs: 'audiences:read', answers: audiences.audienceViewSchema },
  {
    method: 'get',
    path: '/audiences/{key}/members',
    does: 'Who is in, and since when.',
    needs: 'audiences:read',
    answers: audiences.membersAnswerSchema,
    query: paged,
  },
  {
    method: 'get',
    path: '/audiences/{key}/movements',
    does: 'Who came and who left, the latest first.',
    needs: 'audiences:read',
    answers: audiences.movementsAnswerSchema,
    query: paged,
  },
  {
    method: 'get',
    path: '/definitions',
    does: 'The whole set-up as one document.',
    needs: 'definitions:read',
    answers: definitionsDocumentSchema,
  },
  {
    method: 'put',
    path: '/definitions',
    does: 'Makes or changes what the document names; what it does not name stays.',
    needs: 'definitions:write',
    body: json(definitionsDocumentSchema),
    answers: definitionsAnswerSchema,
    query: {
      rehearse: '`true` only says what would change',
      force: '`true` deletes also what something rests on: that is broken from then on and stands still',
    },
  },
  {
    method: 'put',
    path: '/builds/{id}',
    does: 'Stops a build where it stands, or lets it go on.',
    needs: 'definitions:write',
    body: json(steerBuildSchema),
    answers: buildViewSchema,
  },
  { method: 'get', path: '/status', does: 'Whether everything that came in has been worked.', needs: 'any key', answers: statusSchema },
];

/** The OpenAPI 3.1 document of the public API. */
export function openApiDocument(version: string): Record<string, unknown> {
  const schemaOf = (schema: z.ZodType): unknown => {
    const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as Record<string, unknown>;
    return rest;
  };
  const problem = { description: 'A problem (RFC 9457)', content: { 'application/problem+json': { schema: schemaOf(problemSchema) } } };
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of operations) {
    const parameters = [
      ...[...operation.path.matchAll(/\{(\w+)\}/g)].map((match) => ({
        name: match[1],
        in: 'path',
        required: true,
        schema: { type: 'string' },
      })),
      ...Object.entries(operation.query ?? {}).map(([name, description]) => ({
        name,
        in: 'query',
        description,
        schema: { type: 'string' },
      })),
    ];
    (paths[operation.path] ??= {})[operation.method] = {
      summary: operation.does,
      security: [{ key: operation.needs === 'any key' ? [] : [operation.needs] }],
      ...(parameters.length > 0 ? { parameters } : {}),
      ...(operation.body
        ? {
            requestBody: {
              required: true,
              content: Object.fromEntries(
                operation.body.types.map((type) => [type, { schema: schemaOf(operation.body?.schema as z.ZodType) }]),
              ),
            },
          }
        : {}),
      responses: {
        [operation.status ?? 200]: {
          description: 'Done',
          ...(operation.answers ? { content: { 'application/json': { schema: schemaOf(operation.answers) } } } : {}),
        },
        default: problem,
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Eager Sieve', version, description: 'Within v1 fields are only added.' },
    servers: [{ url: '/api/v1' }],
    paths,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'A key made in the settings or by `./sieve key create`.' } },
    },
  };
}
