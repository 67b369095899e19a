import { z } from 'zod';
import { funnelQuerySchema, funnelSchema } from '../funnel.ts';
import {
  mapValuesQuerySchema,
  mapValuesSchema,
  rehearseMapSchema,
  rehearseRoutingSchema,
  rehearseRuleSchema,
  routingRehearsalSchema,
  ruleFiguresSchema,
  ruleRehearsalSchema,
  sweepRunSchema,
  sweepsSchema,
} from '../rules.ts';
import { type Route } from '../route.ts';
import { circleViewSchema } from '../today.ts';
import { byNumber } from './params.ts';

export const RULE_ROUTES = {
  rehearse: {
    method: 'POST',
    path: '/api/app/rules/rehearse',
    does: 'What a rule would do, were it turned on now. Nothing is kept.',
    requires: ['definitions:read', 'audiences:read'],
    body: rehearseRuleSchema,
    answers: ruleRehearsalSchema,
  },
  circle: {
    method: 'GET',
    path: '/api/app/rules/{key}/circle',
    does: 'The circle that a rule went in, if it is held back for it.',
    requires: ['definitions:read', 'audiences:read'],
    answers: z.object({ circle: circleViewSchema.nullable() }),
  },
  sweeps: {
    method: 'GET',
    path: '/api/app/rules/{key}/sweeps',
    does: 'The times that a rule was run once over whoever matched, the latest twenty, with what each did.',
    requires: ['definitions:read', 'audiences:read'],
    answers: sweepsSchema,
  },
  sweep: {
    method: 'POST',
    path: '/api/app/rules/{key}/sweeps',
    does: 'Runs a rule once over whoever matches now, whether it is on or off. It goes on by itself; the list says how far it is.',
    requires: ['definitions:write', 'contacts:write', 'audiences:read'],
    status: 202,
    answers: sweepRunSchema,
  },
  mapValues: {
    method: 'POST',
    path: '/api/app/maps/values',
    does: 'What signals have named lately in a detail, by how many people: what a map should have rows for.',
    requires: ['definitions:read', 'audiences:read', 'contacts:read'],
    body: mapValuesQuerySchema,
    answers: mapValuesSchema,
  },
  rehearseMap: {
    method: 'POST',
    path: '/api/app/maps/rehearse',
    does: 'What a map would make of the signals there are. Nothing is kept.',
    requires: ['definitions:read', 'audiences:read'],
    body: rehearseMapSchema,
    answers: ruleRehearsalSchema,
  },
  rehearseRouting: {
    method: 'POST',
    path: '/api/app/routing/rehearse',
    does: 'Who would have got how many contacts of the last 30 days by a routing table. Nobody is handed to anyone.',
    requires: ['definitions:read', 'audiences:read'],
    body: rehearseRoutingSchema,
    answers: routingRehearsalSchema,
  },
  mapSweeps: {
    method: 'GET',
    path: '/api/app/maps/{key}/sweeps',
    does: 'The times that a map was applied to the signals there were, with what each did.',
    requires: ['definitions:read', 'audiences:read'],
    answers: sweepsSchema,
  },
  sweepMap: {
    method: 'POST',
    path: '/api/app/maps/{key}/sweeps',
    does: 'Applies a map to the signals there are, as if each came now.',
    requires: ['definitions:write', 'contacts:write', 'audiences:read'],
    status: 202,
    answers: sweepRunSchema,
  },
  ruleFigures: {
    method: 'GET',
    path: '/api/app/rules/figures',
    does: 'How often each rule ran lately, and when it ran last.',
    requires: ['definitions:read', 'audiences:read'],
    answers: ruleFiguresSchema,
  },
  funnel: {
    method: 'GET',
    path: '/api/app/ladder/funnel',
    does: 'How many of those who came onto the ladder in a time reached each stage, how long it took them, and where they stand.',
    requires: ['definitions:read', 'audiences:read'],
    query: funnelQuerySchema,
    answers: funnelSchema,
  },
  cancelSweep: {
    method: 'POST',
    path: '/api/app/sweeps/{id}/cancel',
    does: 'Ends a run. What it did stands, and can be taken back.',
    requires: ['definitions:write', 'contacts:write'],
    params: byNumber,
    status: 204,
  },
  letOn: {
    method: 'POST',
    path: '/api/app/rules/{key}/let-on',
    does: 'Lets a rule run again that was held back because it went in a circle.',
    requires: 'definitions:write',
    status: 204,
  },
} as const satisfies Record<string, Route>;
