import { parse } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible';
import type { ServerConfig } from '../config.js';
import { inLogContext } from '../log-context.js';
import { AppProblem } from '../problems/app-problem.js';
import { answerTo } from '../problems/problem.filter.js';
import { inAsking, type Asker } from './asker.js';

/** With the prefix a browser takes it over https alone, for this very host and all of its paths (RFC 6265bis, 4.1.3.2). */
export const cookieName = (secure: boolean): string => (secure ? '__Host-euphonos' : 'euphonos');

/** A page that draws a long recording asks for a few hundred stretches at once; nobody's hand asks for more. */
const PERSON = { points: 3000, duration: 60 };
/** What needs no account yet (signing in, invitations) and what asks for a password: by where it comes from. */
const STRANGER = { points: 30, duration: 300 };
/** Everything else of somebody who is not signed in. */
const OUTSIDE = { points: 600, duration: 60 };

const GUESSED = /^\/api\/(sign-in|password|invitations\/(look-up|take))$/;

async function within(limiter: RateLimiterMemory, key: string): Promise<void> {
  try {
    await limiter.consume(key);
  } catch (limit) {
    const seconds = Math.ceil((limit as RateLimiterRes).msBeforeNext / 1000);
    throw new AppProblem(
      429,
      'too-often',
      `That was asked too often in a short time. It is answered again in ${seconds} s; nothing was changed.`,
      { seconds },
    );
  }
}

/** Finds out who asks, and holds everybody to a measure. Without accounts it does nothing. */
export function asking(config: ServerConfig, find: (secret: string) => Promise<Asker | null>) {
  const name = cookieName(config.secureCookies);
  const limits = [PERSON, STRANGER, OUTSIDE].map((measure) => new RateLimiterMemory(measure)) as [
    RateLimiterMemory,
    RateLimiterMemory,
    RateLimiterMemory,
  ];
  return async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    if (!config.shared) return inAsking({ shared: false, asker: null }, next);
    try {
      const secret = request.path.startsWith('/api/') ? parse(request.headers.cookie ?? '')[name] : undefined;
      const person = secret === undefined ? null : await find(secret);
      const from = request.ip ?? 'nowhere';
      if (GUESSED.test(request.path) && request.method !== 'GET') await within(limits[1], from);
      else if (person) await within(limits[0], person.personId);
      else if (request.path.startsWith('/api/')) await within(limits[2], from);
      if (!person && request.path.startsWith('/api/docs'))
        throw new AppProblem(401, 'sign-in', 'Whoever is signed in may read how the API is asked.');
      // What is somebody's own is kept by no proxy, and by no browser for the next one who signs in there.
      if (request.path.startsWith('/api/')) response.setHeader('cache-control', 'private, no-cache');
      inAsking({ shared: true, asker: person }, () => inLogContext(person ? { personId: person.personId } : {}, next));
    } catch (error) {
      const { status, code, message, data } = answerTo(error);
      if (status === 429 && data?.['seconds']) response.setHeader('retry-after', String(data['seconds']));
      response
        .setHeader('connection', 'close')
        .status(status)
        .json({ code, message, ...(data ? { data } : {}) });
    }
  };
}
