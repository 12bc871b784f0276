import { authenticator } from 'otplib';

const STEP_MS = 30_000;
/** A clock may be half a minute off, either way. */
const WINDOW = 1;
const SECRET_BYTES = 20;

/** 160 bits in base 32, as RFC 4226 (section 4, R6) advises. */
export const newCodeSecret = (): string => authenticator.generateSecret(SECRET_BYTES);

/** What a device that makes such codes is shown, as a picture or as a link. */
export const codeAddress = (email: string, secret: string): string => authenticator.keyuri(email, 'Euphonos', secret);

/**
 * The time step that a code of six digits is of (RFC 6238, SHA-1, 30 s), so that it is taken once; null where it is not right.
 * @param secret in base 32
 */
export function stepOfCode(code: string, secret: string, nowMs = Date.now()): number | null {
  const delta = authenticator.clone({ window: WINDOW, epoch: nowMs }).checkDelta(code, secret);
  return delta === null ? null : Math.floor(nowMs / STEP_MS) + delta;
}
