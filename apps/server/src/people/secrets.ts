import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';

/** 256 bits that nobody can guess, as text that an address or a cookie takes. */
export const newSecret = (): string => randomBytes(32).toString('base64url');

/** What is kept of a secret. It is as random as its hash is long, so it needs no salt and no slowness. */
export const hashOfSecret = (secret: string): string => createHash('sha256').update(secret).digest('hex');

/** Takes as long whether the first character or none is wrong. */
export function sameSecret(given: string | undefined, known: string): boolean {
  if (given === undefined) return false;
  const [a, b] = [hashOfSecret(given), hashOfSecret(known)].map((text) => Buffer.from(text));
  return timingSafeEqual(a!, b!);
}
