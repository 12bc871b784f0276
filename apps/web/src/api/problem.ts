import { tellSignedOut } from './token.js';
import type { Problem } from '@euphonos/contracts';

/** An answer of the server that is not what was hoped for: what happened, what is safe, what to do. */
export class ServerProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'ServerProblem';
  }
}

/** The server could not be reached at all. */
export const unreachable = (): ServerProblem =>
  new ServerProblem(
    0,
    'server-unreachable',
    'The server does not answer. What was saved is safe; unsaved changes are kept here and saved as soon as it is back.',
  );

/** Reads { code, message, data } from an answer that failed. */
export async function problemOf(response: Response): Promise<ServerProblem> {
  const body = (await response.json().catch(() => ({}))) as Partial<Problem> & { data?: Record<string, unknown> };
  if (response.status === 401 && body.code === 'sign-in') tellSignedOut();
  return new ServerProblem(
    response.status,
    body.code ?? 'unexpected',
    body.message ?? `The server answered ${response.status}.`,
    body.data,
  );
}
