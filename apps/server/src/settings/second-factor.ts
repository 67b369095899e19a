import { createHash, randomBytes } from 'node:crypto';
import { generateSecret, generateURI, verifySync } from 'otplib';
import { fold } from '@eager-sieve/core';

const ISSUER = 'Eager Sieve';
/** A clock may go wrong by so much. */
const TOLERANCE_SECONDS = 30;
const CODE = /^\d{6}$/;
/** What cannot be opened is no secret. */
const BASE_32 = /^[A-Z2-7]+=*$/;
const RECOVERY_CODES = 10;

export interface NewSecret {
  readonly secret: string;
  /** for a picture that a program of codes reads */
  readonly uri: string;
}

export function newSecret(email: string): NewSecret {
  const secret = generateSecret();
  return { secret, uri: generateURI({ issuer: ISSUER, label: email, secret }) };
}

/**
 * The time step of a code by RFC 6238 if it is right, and later than the last that was taken: a code opens once.
 *
 * @param now in milliseconds
 */
export function stepOf(secret: string, code: string, now: number, after: number | null): number | undefined {
  const digits = code.replaceAll(/\s/g, '');
  if (!CODE.test(digits)) return undefined;
  if (!BASE_32.test(secret)) return undefined;
  const result = verifySync({
    secret,
    token: digits,
    epoch: Math.floor(now / 1_000),
    epochTolerance: TOLERANCE_SECONDS,
    ...(after === null ? {} : { afterTimeStep: after }),
  });
  return result.valid && 'timeStep' in result ? result.timeStep : undefined;
}

/** Codes for whoever has lost their second factor; each opens once. Shown once, and kept as hashes. */
export function newRecoveryCodes(): { readonly codes: readonly string[]; readonly hashes: readonly string[] } {
  const codes = Array.from({ length: RECOVERY_CODES }, () =>
    randomBytes(10)
      .toString('hex')
      .replaceAll(/(.{5})(?=.)/g, '$1-'),
  );
  return { codes, hashes: codes.map(recoveryHash) };
}

/** Their 80 random bits need no slow hash. */
export const recoveryHash = (code: string): string =>
  createHash('sha256')
    .update(fold(code).replaceAll(/[^0-9a-f]/g, ''))
    .digest('hex');
