import { finished } from 'node:stream/promises';
import { readForeignJson } from '@euphonos/engine';
import type { NextFunction, Request, Response } from 'express';
import { AppProblem } from './problems/app-problem.js';
import { answerTo } from './problems/problem.filter.js';

/** A session of ten thousand clips, with versions of it and the steps that led to it, is some ten megabytes. */
const DOCUMENT_BYTES = 64 << 20;
/** The largest of all others is a batch with a chain, or a profile of noise in both channels. */
const BODY_BYTES = 4 << 20;

const REST_MS = 10_000;

const mostBytes = (path: string): number => (/^\/api\/sessions\/[^/]+\/document$/.test(path) ? DOCUMENT_BYTES : BODY_BYTES);

async function received(request: Request, most: number): Promise<Buffer> {
  const tooLarge = (): AppProblem =>
    new AppProblem(413, 'body-large', `What was sent is larger than the ${most >> 20} MB that are taken here. Nothing was changed.`);
  if (Number(request.headers['content-length'] ?? 0) > most) throw tooLarge();
  const parts: Buffer[] = [];
  let bytes = 0;
  // The line stays open for the answer.
  for await (const part of request.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
    if ((bytes += part.length) > most) throw tooLarge();
    parts.push(part);
  }
  return Buffer.concat(parts);
}

/** Whoever still sends would not hear the answer: the rest is let go by, for a while. */
const restOf = (request: Request): Promise<unknown> =>
  request.complete ? Promise.resolve() : finished(request.resume(), { signal: AbortSignal.timeout(REST_MS) }).catch(() => undefined);

/**
 * Reads bodies that say they are JSON, each within the size of what its path takes, and no deeper than a document is. Packed bodies
 * (Content-Encoding) are not unpacked, so what comes in is what was measured.
 */
export async function jsonBodies(request: Request, response: Response, next: NextFunction): Promise<void> {
  try {
    // Whoever wants a body finds out what is missing in an empty one.
    request.body = {};
    if (!request.is('application/json')) return next();
    const packed = request.headers['content-encoding'] ?? 'identity';
    if (packed !== 'identity')
      throw new AppProblem(415, 'body-packed', `What was sent is packed ("${packed.slice(0, 20)}"); it is taken as it is only.`);
    const most = mostBytes(request.path);
    const bytes = await received(request, most);
    if (bytes.length > 0) request.body = readForeignJson(bytes, { mostBytes: most });
    next();
  } catch (error) {
    if (request.destroyed && !request.complete) return;
    const { status, code, message } = answerTo(error);
    await restOf(request);
    response
      .setHeader('connection', 'close')
      .status(code.startsWith('json-') ? 400 : status)
      .json({ code, message });
  }
}
