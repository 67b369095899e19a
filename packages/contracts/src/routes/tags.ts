import { type Route } from '../route.ts';
import { z } from 'zod';
import { mergeTagSchema, tagFiguresSchema, tagMergeRehearsalSchema, tagMergeSchema } from '../tags.ts';
import { byNumber } from './params.ts';

export const TAG_ROUTES = {
  tagFigures: {
    method: 'GET',
    path: '/api/app/tags/figures',
    does: 'How many have each tag, how that moved, when it was given last, and which tags mostly the same people have.',
    requires: ['definitions:read', 'audiences:read'],
    answers: tagFiguresSchema,
  },
  rehearseTagMerge: {
    method: 'POST',
    path: '/api/app/tags/{key}/merge/rehearse',
    does: 'What merging a tag into another would do. Nothing is kept.',
    requires: ['definitions:write', 'audiences:read'],
    body: mergeTagSchema,
    answers: tagMergeRehearsalSchema,
  },
  mergeTag: {
    method: 'POST',
    path: '/api/app/tags/{key}/merge',
    does: 'Merges a tag into another, for people and for whatever names it. It goes on by itself.',
    requires: ['definitions:write', 'contacts:write'],
    body: mergeTagSchema,
    status: 202,
    answers: tagMergeSchema,
  },
  tagMerges: {
    method: 'GET',
    path: '/api/app/tags/{key}/merges',
    does: 'The merges of a tag into others and of others into it, the latest first.',
    requires: 'definitions:read',
    answers: z.object({ merges: z.array(tagMergeSchema) }),
  },
  takeBackTagMerge: {
    method: 'POST',
    path: '/api/app/tag-merges/{id}/take-back',
    does: 'Takes a merge of tags back, for people and for whatever names them and was not changed since.',
    requires: ['definitions:write', 'contacts:write'],
    params: byNumber,
    status: 202,
    answers: tagMergeSchema,
  },
} as const satisfies Record<string, Route>;
