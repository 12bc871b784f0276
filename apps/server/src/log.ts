import { pino } from 'pino';
import { logContext } from './log-context.js';

/** Of an error only what helps: drivers hang whole connections, keys included, on theirs. */
const err = ({ name, message, code, stack }: Error & { code?: unknown }): object => ({ name, message, code, stack });

/** The server's log: JSON lines on standard error, each with the request or the job that it is about. */
export const log = pino(
  { level: process.env['EUPHONOS_LOG'] ?? 'warn', serializers: { err }, mixin: () => ({ ...logContext() }) },
  pino.destination(2),
);
