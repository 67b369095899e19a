import { z } from 'zod';
import { type Route } from '../route.ts';
import { searchHitSchema, todayViewSchema } from '../today.ts';

export const TODAY_ROUTES = {
  today: {
    method: 'GET',
    path: '/api/app/today',
    does: 'What moved today and what needs attention.',
    requires: ['definitions:read', 'audiences:read'],
    answers: todayViewSchema,
  },
  loadDemo: {
    method: 'POST',
    path: '/api/app/demo',
    does: 'Loads the demo into an empty installation, to play in.',
    requires: 'settings:write',
    status: 204,
  },
  stopDemo: {
    method: 'DELETE',
    path: '/api/app/demo',
    does: 'Stops the demo that is being loaded, at the end of the day that it is at. What it has loaded stays.',
    requires: 'settings:write',
    status: 204,
  },
  search: {
    method: 'GET',
    path: '/api/app/search',
    does: 'Finds definitions and, for those who may look at them, contacts and companies.',
    requires: 'definitions:read',
    own: 'narrowed',
    query: z.object({
      q: z
        .string()
        .default('')
        .transform((text) => text.slice(0, 100)),
    }),
    answers: z.array(searchHitSchema),
  },
  events: {
    method: 'GET',
    path: '/api/app/events',
    does: 'Tells, as server-sent events, what moved and whom it concerned.',
    requires: 'signed in',
    gives: ['text/event-stream'],
  },
} as const satisfies Record<string, Route>;
