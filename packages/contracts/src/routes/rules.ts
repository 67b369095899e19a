import { z } from 'zod';
import { rehearseRuleSchema, ruleRehearsalSchema } from '../rules.ts';
import { type Route } from '../route.ts';
import { circleViewSchema } from '../today.ts';

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
  letOn: {
    method: 'POST',
    path: '/api/app/rules/{key}/let-on',
    does: 'Lets a rule run again that was held back because it went in a circle.',
    requires: 'definitions:write',
    status: 204,
  },
} as const satisfies Record<string, Route>;
