import { type Route } from '../route.ts';
import { z } from 'zod';
import { replaceTagSchema, tagFiguresSchema, tagReplacementRehearsalSchema, tagReplacementSchema } from '../tags.ts';
import { byNumber } from './params.ts';

export const TAG_ROUTES = {
  tagFigures: {
    method: 'GET',
    path: '/api/app/tags/figures',
    does: 'How many have each tag, how that moved, when it was given last, and which tags mostly the same people have.',
    requires: ['definitions:read', 'audiences:read'],
    answers: tagFiguresSchema,
  },
  rehearseTagReplacement: {
    method: 'POST',
    path: '/api/app/tags/{key}/replace/rehearse',
    does: 'What replacing a tag by another would do. Nothing is kept.',
    requires: ['definitions:write', 'audiences:read'],
    body: replaceTagSchema,
    answers: tagReplacementRehearsalSchema,
  },
  replaceTag: {
    method: 'POST',
    path: '/api/app/tags/{key}/replace',
    does: 'Replaces a tag by another, for people and for whatever names it. It goes on by itself.',
    requires: ['definitions:write', 'contacts:write'],
    body: replaceTagSchema,
    status: 202,
    answers: tagReplacementSchema,
  },
  tagReplacements: {
    method: 'GET',
    path: '/api/app/tags/{key}/replacements',
    does: 'By which tags a tag was replaced, and which it replaced, the latest first.',
    requires: 'definitions:read',
    answers: z.object({ replacements: z.array(tagReplacementSchema) }),
  },
  takeBackTagReplacement: {
    method: 'POST',
    path: '/api/app/tag-replacements/{id}/take-back',
    does: 'Takes the replacing of a tag back, for people and for whatever names them and was not changed since.',
    requires: ['definitions:write', 'contacts:write'],
    params: byNumber,
    status: 202,
    answers: tagReplacementSchema,
  },
} as const satisfies Record<string, Route>;
