import { changedTypeSchema, changeTypeSchema, fieldFiguresSchema, mergeChoiceSchema, mergedChoiceSchema } from '../fields.ts';
import { flag } from '../page.ts';
import { type Route } from '../route.ts';
import { z } from 'zod';

const rehearsing = z.object({ rehearse: flag('`true` only says what it would do') });

export const FIELD_ROUTES = {
  fieldFigures: {
    method: 'GET',
    path: '/api/app/fields/{key}/figures',
    does: 'How many have a value of a field, and each of its choices.',
    requires: ['definitions:read', 'contacts:read'],
    answers: fieldFiguresSchema,
  },
  mergeChoice: {
    method: 'POST',
    path: '/api/app/fields/{key}/merge-choice',
    does: 'Merges a choice of a field into another one, for whoever has it and for whatever names it.',
    requires: ['definitions:write', 'contacts:read', 'contacts:write'],
    query: rehearsing,
    body: mergeChoiceSchema,
    answers: mergedChoiceSchema,
  },
  changeType: {
    method: 'POST',
    path: '/api/app/fields/{key}/change-type',
    does: 'Makes a field of another type that stands for a field: it takes over its name, its values and whatever names it; the old one is retired.',
    requires: ['definitions:write', 'contacts:read', 'contacts:write'],
    query: rehearsing,
    body: changeTypeSchema,
    answers: changedTypeSchema,
  },
} as const satisfies Record<string, Route>;
