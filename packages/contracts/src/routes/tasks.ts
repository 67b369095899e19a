import { z } from 'zod';
import { flag } from '../page.ts';
import { type Route } from '../route.ts';
import { changeTaskSchema, newTaskSchema, noticesAnswerSchema, tasksAnswerSchema, taskSchema, tasksQuerySchema } from '../tasks.ts';
import { byNumber } from './params.ts';

export const TASK_ROUTES = {
  tasks: {
    method: 'GET',
    path: '/api/v1/tasks',
    does: 'What people are to do about contacts and companies: open ones by when they are due, or done ones, the latest first.',
    requires: 'contacts:read',
    own: 'narrowed',
    query: tasksQuerySchema,
    answers: tasksAnswerSchema,
  },
  taskCalendar: {
    method: 'GET',
    path: '/api/app/tasks/calendar',
    does: 'Open tasks as a calendar file, each on the day on which it is due.',
    requires: 'contacts:read',
    own: 'narrowed',
    query: tasksQuerySchema.pick({ for: true }),
    gives: ['text/calendar'],
  },
  makeTask: {
    method: 'POST',
    path: '/api/v1/tasks',
    does: 'Makes a task about a contact.',
    requires: ['contacts:names', 'contacts:write'],
    own: 'narrowed',
    body: newTaskSchema,
    answers: taskSchema,
    status: 201,
  },
  changeTask: {
    method: 'PUT',
    path: '/api/v1/tasks/{id}',
    does: 'Says that a task is done, or is not, or changes what is to be done, by when and by whom.',
    requires: ['contacts:names', 'contacts:write'],
    own: 'narrowed',
    params: byNumber,
    body: changeTaskSchema,
    answers: taskSchema,
  },
  notices: {
    method: 'GET',
    path: '/api/app/notices',
    does: 'What rules have told whoever is signed in.',
    requires: ['signed in', 'contacts:read'],
    own: 'narrowed',
    answers: noticesAnswerSchema,
  },
  seeNotice: {
    method: 'PUT',
    path: '/api/app/notices/{id}/seen',
    does: 'Says that a notice has been seen.',
    requires: ['signed in', 'contacts:read'],
    own: 'narrowed',
    params: byNumber,
    query: z.object({ earlier: flag('`true`: with it all that came before it') }),
    status: 204,
  },
} as const satisfies Record<string, Route>;
