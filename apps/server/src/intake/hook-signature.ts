import { createHmac, timingSafeEqual } from 'node:crypto';

const PREFIX = 'whsec_';
/** A signature is good for so long before and after the time that it names. */
const TOLERANCE_S = 5 * 60;

export interface SignatureHeaders {
  readonly id: string | undefined;
  readonly timestamp: string | undefined;
  readonly signatures: string | undefined;
}

/**
 * Whether what was sent is signed with a secret, as Standard Webhooks has it: HMAC-SHA256 over the id, the time and the body.
 *
 * @param now milliseconds since 1970
 */
export function isSigned(secret: string, body: Buffer, { id, timestamp, signatures }: SignatureHeaders, now: number): boolean {
  if (id === undefined || signatures === undefined || timestamp === undefined || !/^\d{1,12}$/.test(timestamp)) return false;
  if (Math.abs(now / 1_000 - Number(timestamp)) > TOLERANCE_S) return false;
  const key = Buffer.from(secret.startsWith(PREFIX) ? secret.slice(PREFIX.length) : secret, 'base64');
  const wanted = createHmac('sha256', key).update(`${id}.${timestamp}.`).update(body).digest();
  return signatures.split(' ').some((each) => {
    const [version, value = ''] = each.split(',');
    const given = Buffer.from(value, 'base64');
    return version === 'v1' && given.length === wanted.length && timingSafeEqual(given, wanted);
  });
}

/** @param bytes random ones */
export const secretOf = (bytes: Buffer): string => PREFIX + bytes.toString('base64');
