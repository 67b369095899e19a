import { z } from 'zod';
import { importRehearsalSchema } from '../intake.ts';
import { type Route } from '../route.ts';
import {
  goneAnswerSchema,
  lookAtPlaceSchema,
  madeWatchSchema,
  rehearseWatchSchema,
  watchBodySchema,
  watchedHeadSchema,
  watchedPlacesSchema,
  watchViewSchema,
} from '../watches.ts';
import { byNumber } from './params.ts';

/** Files and addresses that are looked at by a timetable and read whenever they have changed. */
export const WATCH_ROUTES = {
  watches: {
    method: 'GET',
    path: '/api/app/watches',
    does: 'The watched files.',
    requires: ['settings:read', 'contacts:read'],
    answers: z.array(watchViewSchema),
  },
  watch: {
    method: 'GET',
    path: '/api/app/watches/{id}',
    does: 'One watched file.',
    requires: ['settings:read', 'contacts:read'],
    params: byNumber,
    answers: watchViewSchema,
  },
  watchedPlaces: {
    method: 'GET',
    path: '/api/app/watched-places',
    does: 'The files that lie in the watched folder, and the hosts that may be read.',
    requires: ['settings:read', 'contacts:read'],
    answers: watchedPlacesSchema,
  },
  lookAtPlace: {
    method: 'POST',
    path: '/api/app/watches/look',
    does: 'How a file begins that could be watched, to say what is what in it. Nothing is kept.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    body: lookAtPlaceSchema,
    answers: watchedHeadSchema,
  },
  rehearseWatch: {
    method: 'POST',
    path: '/api/app/watches/rehearse',
    does: 'What reading a watched file now would do. Nothing is kept.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    body: rehearseWatchSchema,
    answers: importRehearsalSchema,
  },
  makeWatch: {
    method: 'POST',
    path: '/api/app/watches',
    does: 'Watches a file. It is read for the first time at once.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    body: watchBodySchema,
    answers: madeWatchSchema,
    status: 201,
  },
  changeWatch: {
    method: 'PUT',
    path: '/api/app/watches/{id}',
    does: 'Changes where a watched file lies, how it is read and when. It is read anew.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    params: byNumber,
    body: watchBodySchema,
    status: 204,
  },
  removeWatch: {
    method: 'DELETE',
    path: '/api/app/watches/{id}',
    does: 'Watches a file no more. What it brought stays.',
    requires: 'settings:write',
    params: byNumber,
    status: 204,
  },
  readWatch: {
    method: 'POST',
    path: '/api/app/watches/{id}/read',
    does: 'Looks at a watched file now.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    params: byNumber,
    status: 202,
  },
  answerGone: {
    method: 'POST',
    path: '/api/app/watches/{id}/gone',
    does: 'Says whether it is right that so many are gone from a watched file.',
    requires: ['settings:write', 'contacts:read', 'contacts:write'],
    params: byNumber,
    body: goneAnswerSchema,
    status: 204,
  },
} as const satisfies Record<string, Route>;
