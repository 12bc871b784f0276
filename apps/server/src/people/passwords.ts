import { hash, verify, type Algorithm } from '@node-rs/argon2';
import { PASSWORD_LENGTHS } from '@euphonos/contracts';
import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';
import { AppProblem } from '../problems/app-problem.js';

/** Its number in the library, whose names for them are known to the compiler alone. */
const ARGON2ID: Algorithm = 2;

/** Memory, rounds and lanes of argon2id (RFC 9106): 19 MiB, 2, 1, as the OWASP Password Storage Cheat Sheet asks for at least (from memory). */
const COST = { algorithm: ARGON2ID, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** Of 0 to 4: 3 withstands a hundred million guesses. */
const LEAST_SCORE = 3;

let judge: ZxcvbnFactory | undefined;

/**
 * Holds a new password to length and to what is guessed first: the thirty thousand most common ones, words of the person, rows of keys, dates. No
 * kinds of characters are asked for (NIST SP 800-63B, 5.1.1.2).
 * @param own words that a guesser would try first: name, address.
 * @throws {AppProblem} `password-short`, `password-long`, `password-weak`
 */
export function requireGoodPassword(password: string, own: readonly string[]): void {
  const { least, most } = PASSWORD_LENGTHS;
  const length = [...password].length;
  if (length < least)
    throw new AppProblem(
      422,
      'password-short',
      `A password has at least ${least} characters; this one has ${length}. A few words that do not belong together are good.`,
    );
  if (length > most) throw new AppProblem(422, 'password-long', `A password has up to ${most} characters; this one has ${length}.`);
  judge ??= new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });
  if (judge.check(password, [...own, 'euphonos']).score < LEAST_SCORE)
    throw new AppProblem(
      422,
      'password-weak',
      'This password is among those that are tried first: common ones, rows of keys, dates, your own name. Take a few words that do not belong together.',
    );
}

export const hashPassword = (password: string): Promise<string> => hash(password.normalize('NFC'), COST);

export const isPassword = (passwordHash: string, password: string): Promise<boolean> => verify(passwordHash, password.normalize('NFC'));

let nobodysHash: Promise<string> | undefined;

/** As long as a true look takes: so the time of an answer does not tell whether there is such an account. */
export async function asIfLooked(password: string): Promise<void> {
  await isPassword(await (nobodysHash ??= hashPassword('there is nobody of this name')), password);
}
