import { z } from 'zod';
import { postActionSchema, postViewSchema, recipientsViewSchema, sendSchema, sendViewSchema, sentSchema } from '../campaigns.ts';
import { flag, searchText } from '../page.ts';
import { type Route } from '../route.ts';
import { byNumber } from './params.ts';

export const CAMPAIGN_ROUTES = {
  recipients: {
    method: 'GET',
    path: '/api/app/messages/{key}/recipients',
    does: 'Who would get a message, and who is held back and why.',
    requires: ['campaigns:read', 'contacts:read'],
    query: z.object({ search: searchText.optional(), again: flag('`true`: also to those who got it already') }),
    answers: recipientsViewSchema,
  },
  send: {
    method: 'POST',
    path: '/api/app/messages/{key}/send',
    does: 'Sends a message to its audience.',
    requires: 'campaigns:send',
    body: sendSchema,
    answers: sentSchema,
    status: 201,
  },
  sends: {
    method: 'GET',
    path: '/api/app/sends',
    does: 'The latest sends, with what came of them.',
    requires: 'campaigns:read',
    answers: z.array(sendViewSchema),
  },
  posts: {
    method: 'GET',
    path: '/api/app/post-room',
    does: 'The latest messages that went out, one for each recipient.',
    requires: ['campaigns:read', 'contacts:read'],
    query: z.object({ search: searchText.optional() }),
    answers: z.array(postViewSchema),
  },
  post: {
    method: 'GET',
    path: '/api/app/post-room/{id}',
    does: 'One message that went out.',
    requires: ['campaigns:read', 'contacts:read'],
    params: byNumber,
    answers: postViewSchema,
  },
  postFile: {
    method: 'GET',
    path: '/api/app/post-room/{id}/eml',
    does: 'One message that went out, as a file of mail.',
    requires: ['campaigns:read', 'contacts:read'],
    params: byNumber,
    gives: ['message/rfc822'],
  },
  actOnPost: {
    method: 'POST',
    path: '/api/app/post-room/{id}/act',
    does: 'Opens a message, replies to it or lets it bounce, as its recipient would.',
    requires: 'campaigns:send',
    params: byNumber,
    body: postActionSchema,
    status: 204,
  },
  followLink: {
    method: 'GET',
    path: '/l/{token}',
    does: 'Where a link of a message leads.',
    requires: 'public',
    gives: ['text/html'],
  },
  askUnsubscribe: {
    method: 'GET',
    path: '/u/{token}',
    does: 'Asks whether to write no more.',
    requires: 'public',
    gives: ['text/html'],
  },
  unsubscribe: {
    method: 'POST',
    path: '/u/{token}',
    does: 'Writes no more: one click, as mail programs send it (RFC 8058), or the button of the page.',
    requires: 'public',
    gives: ['text/html'],
  },
  askConsent: {
    method: 'GET',
    path: '/c/{token}',
    does: 'Asks whether somebody really gave the consent that was given for their address on a form.',
    requires: 'public',
    gives: ['text/html'],
  },
  confirmConsent: {
    method: 'POST',
    path: '/c/{token}',
    does: 'Confirms consent, once, by the link that was sent to the address.',
    requires: 'public',
    gives: ['text/html'],
  },
} as const satisfies Record<string, Route>;
