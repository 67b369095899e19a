import { type Route } from '../route.ts';
import { tagFiguresSchema } from '../tags.ts';

export const TAG_ROUTES = {
  tagFigures: {
    method: 'GET',
    path: '/api/app/tags/figures',
    does: 'How many have each tag, how that moved, when it was given last, and which tags mostly the same people have.',
    requires: ['definitions:read', 'audiences:read'],
    answers: tagFiguresSchema,
  },
} as const satisfies Record<string, Route>;
