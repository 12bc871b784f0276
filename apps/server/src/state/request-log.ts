import { randomUUID } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import { inLogContext } from '../log-context.js';
import { log } from '../log.js';
import type { MetricsService } from './metrics.service.js';

/** Of a proxy in front: what it calls a request, the log here calls it too. */
const ID = /^[\w-]{8,64}$/;

/** The pattern that answered, never the address itself: it may hold names of files, and there would be no end of them. */
const routeOf = (request: Request): string => {
  const { path } = (request.route as { path?: unknown } | undefined) ?? {};
  return typeof path === 'string' ? path : request.path.startsWith('/api') ? 'none' : 'page';
};

/** Gives every request an id that its answer and each of its lines in the log carry, and counts its time. */
export const requestLog =
  (metrics: MetricsService) =>
  (request: Request, response: Response, next: NextFunction): void => {
    const given = request.headers['x-request-id'];
    const requestId = typeof given === 'string' && ID.test(given) ? given : randomUUID();
    response.setHeader('x-request-id', requestId);
    const startMs = performance.now();
    inLogContext({ requestId }, () => {
      response.once('close', () => {
        const route = routeOf(request);
        const seconds = (performance.now() - startMs) / 1000;
        const { statusCode: status } = response;
        // Events stay open as long as their page.
        if (!route.endsWith('/events')) metrics.request(request.method, route, status, seconds);
        const changed = request.method !== 'GET' && request.method !== 'HEAD';
        const line = { requestId, method: request.method, route, status, ms: Math.round(seconds * 1000) };
        if (status >= 500) log.warn(line, 'request failed');
        else if (changed || status >= 400) log.info(line, 'request');
        else log.debug(line, 'request');
      });
      next();
    });
  };
