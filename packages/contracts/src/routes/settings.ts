import { definitionsDocumentSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { keyViewSchema, newKeyAnswerSchema, newKeySchema, renameKeySchema } from '../access.ts';
import {
  buildViewSchema,
  catalogueViewSchema,
  definitionsAnswerSchema,
  definitionVersionSchema,
  statusSchema,
  steerBuildSchema,
} from '../definitions.ts';
import { type OpenApi } from '../open-api.ts';
import { flag } from '../page.ts';
import { type Route } from '../route.ts';
import { byNumber } from './params.ts';

const healthySchema = z.object({ ok: z.literal(true) });
/** Of a server that may take traffic; of one that may not, why. */
const readySchema = z.object({ ok: z.boolean(), because: z.array(z.string()) });

export const SETTINGS_ROUTES = {
  definitions: {
    method: 'GET',
    path: '/api/v1/definitions',
    does: 'The whole set-up as one document.',
    requires: 'definitions:read',
    answers: definitionsDocumentSchema,
  },
  putDefinitions: {
    method: 'PUT',
    path: '/api/v1/definitions',
    does: 'Makes or changes what the document names; what it does not name stays.',
    requires: 'definitions:write',
    query: z.object({
      rehearse: flag('`true` only says what would change'),
      force: flag('`true` deletes also what something rests on: that is broken from then on and stands still'),
    }),
    body: definitionsDocumentSchema,
    answers: definitionsAnswerSchema,
  },
  catalogue: {
    method: 'GET',
    path: '/api/app/catalogue',
    does: 'All definitions with their ids.',
    requires: 'definitions:read',
    answers: catalogueViewSchema,
  },
  versions: {
    method: 'GET',
    path: '/api/app/definitions/{kind}/{key}/versions',
    does: 'How a definition was before, the latest first.',
    requires: 'definitions:read',
    answers: z.array(definitionVersionSchema),
  },
  steerBuild: {
    method: 'PUT',
    path: '/api/v1/builds/{id}',
    does: 'Stops a build where it stands, or lets it go on.',
    requires: 'definitions:write',
    params: byNumber,
    body: steerBuildSchema,
    answers: buildViewSchema,
  },
  status: {
    method: 'GET',
    path: '/api/v1/status',
    does: 'Whether everything that came in has been worked.',
    requires: 'any key',
    answers: statusSchema,
  },
  openApi: {
    method: 'GET',
    path: '/api/v1/openapi.json',
    does: 'This document.',
    requires: 'public',
    answers: z.custom<OpenApi>((value) => typeof value === 'object' && value !== null && 'openapi' in value),
  },
  keys: {
    method: 'GET',
    path: '/api/app/keys',
    does: 'The keys of programs.',
    requires: 'settings:read',
    answers: z.array(keyViewSchema),
  },
  createKey: {
    method: 'POST',
    path: '/api/app/keys',
    does: 'Makes a key for a program.',
    requires: 'settings:write',
    body: newKeySchema,
    answers: newKeyAnswerSchema,
    status: 201,
  },
  revokeKey: {
    method: 'DELETE',
    path: '/api/app/keys/{id}',
    does: 'Revokes a key.',
    requires: 'settings:write',
    params: byNumber,
    status: 204,
  },
  renameKey: {
    method: 'PUT',
    path: '/api/app/keys/{id}',
    does: 'Gives a key another name.',
    requires: 'settings:write',
    params: byNumber,
    body: renameKeySchema,
    status: 204,
  },
  restoreKey: {
    method: 'POST',
    path: '/api/app/keys/{id}/restore',
    does: 'Lets a key in again that was revoked by mistake, within a minute of it.',
    requires: 'settings:write',
    params: byNumber,
    status: 204,
  },
  alive: {
    method: 'GET',
    path: '/api/health/live',
    does: 'The process answers.',
    requires: 'public',
    answers: healthySchema,
  },
  ready: {
    method: 'GET',
    path: '/api/health/ready',
    does: 'The process and its database answer.',
    requires: 'public',
    answers: readySchema,
  },
  health: {
    method: 'GET',
    path: '/health',
    does: 'The process answers.',
    requires: 'public',
    answers: healthySchema,
  },
  readiness: {
    method: 'GET',
    path: '/ready',
    does: 'Whether traffic may be sent here: 200, or 503 with what is in the way.',
    requires: 'public',
    answers: readySchema,
  },
  metrics: {
    method: 'GET',
    path: '/metrics',
    does: 'The figures that an operator watches, in the text format of Prometheus.',
    requires: 'any key',
    gives: ['text/plain'],
  },
} as const satisfies Record<string, Route>;
