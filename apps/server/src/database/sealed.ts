import { createCipheriv, createDecipheriv, hkdfSync, randomBytes } from 'node:crypto';
import { type ValueTransformer } from 'typeorm';

/** With which a sealed text begins. */
export const MARK = 'sealed1.';
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/**
 * Keeps a text so that nobody reads it off the database or a copy of it: AES-256-GCM, with a key made from a secret that is kept elsewhere. What
 * was kept before there was a secret is read as it stands; what cannot be opened stays sealed, and is no right secret for anything.
 *
 * @param secret left out, texts are kept as they are
 */
export function sealing(
  secret: string | undefined,
): ValueTransformer & { to(text: string | null): string | null; from(kept: string | null): string | null } {
  const key =
    secret === undefined || secret === '' ? undefined : Buffer.from(hkdfSync('sha256', secret, '', 'eager-sieve second factor', 32));
  return {
    to(text) {
      if (key === undefined || text === null || typeof text !== 'string') return text;
      const nonce = randomBytes(NONCE_BYTES);
      const cipher = createCipheriv('aes-256-gcm', key, nonce);
      const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
      return MARK + Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64url');
    },
    from(kept) {
      if (key === undefined || !kept?.startsWith(MARK)) return kept;
      const bytes = Buffer.from(kept.slice(MARK.length), 'base64url');
      try {
        const opening = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, NONCE_BYTES), { authTagLength: TAG_BYTES });
        opening.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
        return Buffer.concat([opening.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), opening.final()]).toString('utf8');
      } catch {
        return kept;
      }
    },
  };
}
