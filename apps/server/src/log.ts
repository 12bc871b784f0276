import { pino } from 'pino';

/** Of an error only what helps: drivers hang whole connections, keys included, on theirs. */
const err = ({ name, message, code, stack }: Error & { code?: unknown }): object => ({ name, message, code, stack });

/** The server's log: JSON lines on standard error. */
export const log = pino({ level: process.env['EUPHONOS_LOG'] ?? 'warn', serializers: { err } }, pino.destination(2));
