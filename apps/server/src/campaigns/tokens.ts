import { createHmac, timingSafeEqual } from 'node:crypto';

/** What a link in somebody's message stands for. */
export interface LinkToken {
  readonly recipientId: number;
  /** the key of a choice link, or `~` for unsubscribing */
  readonly link: string;
}
export const UNSUBSCRIBE = '~';

const signature = (payload: string, secret: string): string =>
  createHmac('sha256', secret).update(payload).digest('base64url').slice(0, 22);

export function writeToken(token: LinkToken, secret: string): string {
  const payload = Buffer.from(`${token.recipientId.toString(36)} ${token.link}`).toString('base64url');
  return `${payload}.${signature(payload, secret)}`;
}

/** The token, if it was signed here; what is made up reads as nothing. */
export function readToken(text: string, secret: string): LinkToken | undefined {
  const [payload = '', given = ''] = text.split('.');
  const right = Buffer.from(signature(payload, secret));
  const got = Buffer.from(given);
  if (right.length !== got.length || !timingSafeEqual(right, got)) return undefined;
  const [id = '', link = ''] = Buffer.from(payload, 'base64url').toString('utf8').split(' ');
  const recipientId = Number.parseInt(id, 36);
  return Number.isSafeInteger(recipientId) && link ? { recipientId, link } : undefined;
}
