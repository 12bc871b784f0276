import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { DspError } from '@euphonos/dsp';
import { EngineError } from '@euphonos/engine';
import { asMediaError, MediaError, type MediaErrorCode } from '@euphonos/media';
import type { Response } from 'express';
import { log } from '../log.js';
import { AppProblem } from './app-problem.js';

interface Answer {
  readonly status: number;
  readonly code: string;
  readonly message: string;
  readonly data?: Readonly<Record<string, unknown>>;
}

const MEDIA_STATUS: Partial<Record<MediaErrorCode, number>> = {
  'disk-full': 507,
  'disk-read-only': 507,
  'disk-failed': 507,
  'file-large': 413,
  'store-away': 503,
  'samples-away': 503,
};
/** Of the line (Node.js) and of PostgreSQL (its manual, Appendix A): stopped, crashed, starting up, a connection that broke or never was. */
const DATABASE_DOWN = new Set([
  ...['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'EHOSTUNREACH', 'ENETUNREACH', 'ENOTFOUND', 'EAI_AGAIN', 'ENOENT'],
  ...['57P01', '57P02', '57P03', '08000', '08001', '08003', '08006'],
]);

/** True for the errors of a database that cannot be reached. */
export function isDatabaseDown(error: unknown): boolean {
  const { code, message, name } = error as { code?: string; message?: string; name?: string };
  return (
    (code !== undefined && DATABASE_DOWN.has(code) && name !== 'MediaError') ||
    /Connection terminated|timeout exceeded when trying to connect|Client was closed|is not queryable|Driver not Connected/.test(
      message ?? '',
    )
  );
}

/** PostgreSQL's disk_full (Appendix A of its manual, class 53). */
const DATABASE_FULL = '53100';

/** True for what the database could not take just now, and may take later. */
export const couldNotTake = (error: unknown): boolean => isDatabaseDown(error) || (error as { code?: string }).code === DATABASE_FULL;

/** What is answered to an error. */
export function answerTo(given: unknown): Answer {
  const error = asMediaError(given);
  if (error instanceof AppProblem) return error;
  if (error instanceof DspError || error instanceof EngineError)
    return { status: 422, code: error.code, message: error.message, data: error.data };
  if (error instanceof MediaError) return { status: MEDIA_STATUS[error.code] ?? 422, code: error.code, message: error.message };
  if (error instanceof HttpException) {
    const body = error.getResponse() as { message?: string | string[] } | string;
    const message = typeof body === 'string' ? body : [body.message ?? error.message].flat().join('; ');
    return { status: error.getStatus(), code: error.getStatus() === 404 ? 'not-found' : 'request-invalid', message };
  }
  if (isDatabaseDown(error))
    return {
      status: 503,
      code: 'database-down',
      message: 'The database cannot be reached. What was saved is safe; start it again (npm start) and repeat the last step.',
    };
  if (couldNotTake(error))
    return {
      status: 507,
      code: 'database-full',
      message:
        'The disk of the database is full: nothing was changed, and what was saved is safe. Free some space there and repeat the last step.',
    };
  log.error({ err: error }, 'unexpected error');
  return {
    status: 500,
    code: 'unexpected',
    message: 'Something unexpected went wrong; it was written to the log. What was saved is safe.',
  };
}

/** Every error leaves as { code, message, data }. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const { status, code, message, data } = answerTo(error);
    if (response.headersSent) response.destroy();
    else response.status(status).json({ code, message, ...(data ? { data } : {}) });
  }
}
