import type { NextFunction, Request, Response } from 'express';

/** Names under which a server on loopback is reached; each with the port that it listens on. */
export const LOOPBACK_NAMES = ['127.0.0.1', 'localhost', '[::1]'] as const;

/**
 * Hosts that are answered: the loopback names with the port, and what a setting adds.
 * @param more names as a browser sends them, parted by commas, with the port where it is not the scheme's own.
 */
export const answeredHosts = (port: number, more = ''): ReadonlySet<string> =>
  new Set([...LOOPBACK_NAMES.map((name) => `${name}:${port}`), ...more.split(',').map(asHost).filter(Boolean)]);

const asHost = (name: string): string => name.trim().toLowerCase();

/** What stands between the network and everything else: who was asked for, and who asks. */
export interface Caller {
  readonly method: string;
  readonly host: string | undefined;
  readonly origin: string | undefined;
  /** `Sec-Fetch-Site` (W3C Fetch Metadata): browsers send it, other programs do not. */
  readonly site: string | undefined;
}

export interface Refusal {
  readonly status: 403 | 421;
  readonly code: 'foreign-host' | 'foreign-page';
  readonly message: string;
}

/**
 * Whether a request is answered. A name that somebody points to this machine (DNS rebinding) makes a page of theirs look like
 * our own, so the name itself must be known: 421 (RFC 9110, 15.5.20). Changes are taken only from pages served here.
 */
export function refusalOf({ method, host, origin, site }: Caller, hosts: ReadonlySet<string>): Refusal | null {
  if (!host || !hosts.has(asHost(host)))
    return {
      status: 421,
      code: 'foreign-host',
      message: `This server does not answer to "${(host ?? '').slice(0, 100)}". Open it under the address that it printed, or add the name to EUPHONOS_HOSTS.`,
    };
  const reads = method === 'GET' || method === 'HEAD';
  const foreignSite = site !== undefined && site !== 'same-origin' && site !== 'none';
  const foreignOrigin = origin !== undefined && hostOf(origin) !== asHost(host);
  if (reads || !(foreignSite || foreignOrigin)) return null;
  return { status: 403, code: 'foreign-page', message: 'Another site tried to change something here; nothing was done.' };
}

function hostOf(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}

/** The door as the first middleware: events, pages and the API all lie behind it. */
export function door(hosts: ReadonlySet<string>) {
  return (request: Request, response: Response, next: NextFunction): void => {
    const { host, origin } = request.headers;
    const site = request.headers['sec-fetch-site'];
    const refusal = refusalOf({ method: request.method, host, origin, site: Array.isArray(site) ? site[0] : site }, hosts);
    if (!refusal) return next();
    const { status, ...problem } = refusal;
    // What is still coming in is not read: the line is closed behind the answer.
    response.setHeader('connection', 'close').status(status).json(problem);
  };
}
