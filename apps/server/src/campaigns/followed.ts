import { type Request } from 'express';
import { createIsbotFromList, list } from 'isbot';

/** These are programs that somebody steers on purpose, as in a test of a message before it is sent. */
const STEERED = ['headless', 'node\\b', 'playwright', 'phantom', 'puppeteer', 'selenium'];
const steered = (pattern: string): boolean => STEERED.some((name) => pattern.toLowerCase().includes(name.replace('\\b', '')));
const isRobot = createIsbotFromList(list.filter((pattern) => !steered(pattern)));

/** Whether a person follows a link: no look at what is there, no page fetched ahead, no program that checks or previews links. */
export function isFollowed(request: Request): boolean {
  if (request.method === 'HEAD') return false;
  const { 'sec-purpose': secPurpose, purpose, 'x-purpose': xPurpose, 'x-moz': moz, 'user-agent': agent = '' } = request.headers;
  const isAhead = [secPurpose, purpose, xPurpose, moz].flat().some((value) => /prefetch|preview|prerender/i.test(value ?? ''));
  return !isAhead && (/^node\b/.test(agent) || !isRobot(agent));
}
