import { hash, verify } from '@node-rs/argon2';
import { dictionary } from '@zxcvbn-ts/language-common';
import { PASSWORD_LENGTH } from '@eager-sieve/contracts';
import { fold, type Fault } from '@eager-sieve/core';
import { faulty } from '../http/problem';

/** OWASP's recommended floor for argon2id. */
const ARGON2ID = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;
const FEWEST_CHARACTERS = 5;
/** A part of a name shorter than this says nothing. */
const TELLING = 4;

const COMMON: ReadonlySet<string> = new Set(dictionary['passwords-common']);

export const hashPassword = (password: string): Promise<string> => hash(password, ARGON2ID);
export const isPassword = (hashed: string, password: string): Promise<boolean> => verify(hashed, password).catch(() => false);

/**
 * What is wrong with a new password: too short, among the 49,000 most common (also with digits or signs around it), one thing over and over,
 * or made of who it is for. Else nothing is asked of it, so that long sentences are fine.
 *
 * @see NIST SP 800-63B, 5.1.1.2
 */
export function passwordFault(password: string, person: { readonly email: string; readonly name: string }): string | undefined {
  if (password.length < PASSWORD_LENGTH) return `at least ${PASSWORD_LENGTH} characters`;
  const folded = fold(password);
  const bare = folded.replaceAll(/^[^a-z]+|[^a-z]+$/g, '');
  if (COMMON.has(folded) || COMMON.has(bare)) return 'something that is not among the most common passwords';
  if (new Set(folded).size < FEWEST_CHARACTERS || /^(.{1,6}?)\1+.{0,5}$/.test(folded) || isRun(folded))
    return 'something that does not repeat itself or count up';
  const own = [fold(person.email), ...fold(person.email).split(/[@.]/), ...fold(person.name).split(/\s+/), 'eager sieve', 'eagersieve'];
  const rest = own
    .filter((part) => part.length >= TELLING)
    .sort((a, b) => b.length - a.length)
    .reduce((left, part) => left.replaceAll(part, ''), folded);
  if (rest.replaceAll(/[^a-z]/g, '').length < TELLING && rest.length < PASSWORD_LENGTH)
    return 'something that is not made of your name or address';
  return undefined;
}

/** @throws ProblemError 422 */
export function checkPassword(password: string, person: { readonly email: string; readonly name: string }, path: Fault['path']): void {
  const expected = passwordFault(password, person);
  if (expected !== undefined) throw faulty([{ path, code: 'password.weak', expected }], 'This password would be guessed too easily.');
}

/** Whether each character follows the one before, as in `abcdefghijkl` or `987654321098`. */
const isRun = (text: string): boolean => {
  const steps = [...text].slice(1).map((character, index) => character.charCodeAt(0) - text.charCodeAt(index));
  const up = steps.filter((step) => step === 1 || step === -9).length;
  const down = steps.filter((step) => step === -1 || step === 9).length;
  return Math.max(up, down) >= steps.length - 1;
};
