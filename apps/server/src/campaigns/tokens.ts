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

/** The token, if it was signed here, to the letter; what is made up or written otherwise reads as nothing. */
export function readToken(text: string, secret: string): LinkToken | undefined {
  const written = signedPayload(text, (payload) => signature(payload, secret));
  const [, id = '', link = ''] = /^([0-9a-z]{1,11}) (\S+)$/.exec(written ?? '') ?? [];
  const recipientId = Number.parseInt(id, 36);
  return Number.isSafeInteger(recipientId) && link ? { recipientId, link } : undefined;
}

/** What stands in a token `payload.signature`, if the signature is right and nothing is written in another way than it is made. */
function signedPayload(text: string, sign: (payload: string) => string): string | undefined {
  const [, payload = '', given = ''] = /^([\w-]+)\.([\w-]+)$/.exec(text) ?? [];
  const right = Buffer.from(sign(payload));
  const got = Buffer.from(given);
  if (right.length !== got.length || !timingSafeEqual(right, got)) return undefined;
  const bytes = Buffer.from(payload, 'base64url');
  return bytes.toString('base64url') === payload ? bytes.toString('utf8') : undefined;
}

/** By which a form knows who opened it: a contact, until a time. */
export interface FormToken {
  readonly contactUid: string;
  readonly form: string;
}
const FORM_LINK_MS = 30 * 24 * 3_600_000;

const formSignature = (payload: string, secret: string): string =>
  createHmac('sha256', `form ${secret}`).update(payload).digest('base64url');

/** @param now in milliseconds; the link is theirs for thirty days from then */
export function writeFormToken({ contactUid, form }: FormToken, secret: string, now: number): string {
  const payload = Buffer.from(`${contactUid} ${form} ${(now + FORM_LINK_MS).toString(36)}`).toString('base64url');
  return `${payload}.${formSignature(payload, secret)}`;
}

export function readFormToken(text: string, secret: string, now: number): FormToken | undefined {
  const written = signedPayload(text, (payload) => formSignature(payload, secret));
  const [, contactUid = '', form = '', until = ''] = /^([0-9a-f-]{36}) (\S+) ([0-9a-z]{1,11})$/.exec(written ?? '') ?? [];
  return form && Number.parseInt(until, 36) > now ? { contactUid, form } : undefined;
}

/** By which a page of a site knows who followed a link in a message. */
export interface SiteToken {
  readonly contactUid: string;
}
/** The link was followed just now: whoever passes the address on later passes nobody's name on. */
const SITE_LINK_MS = 10 * 60_000;

const siteSignature = (payload: string, secret: string): string =>
  createHmac('sha256', `site ${secret}`).update(payload).digest('base64url');

/** @param now in milliseconds; it names them for ten minutes from then */
export function writeSiteToken({ contactUid }: SiteToken, secret: string, now: number): string {
  const payload = Buffer.from(`${contactUid} ${(now + SITE_LINK_MS).toString(36)}`).toString('base64url');
  return `${payload}.${siteSignature(payload, secret)}`;
}

export function readSiteToken(text: string, secret: string, now: number): SiteToken | undefined {
  const written = signedPayload(text, (payload) => siteSignature(payload, secret));
  const [, contactUid = '', until = ''] = /^([0-9a-f-]{36}) ([0-9a-z]{1,11})$/.exec(written ?? '') ?? [];
  return until && Number.parseInt(until, 36) > now ? { contactUid } : undefined;
}
