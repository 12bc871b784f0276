import { pino } from 'pino';

/** The server's log: JSON lines on standard error. */
export const log = pino({ level: process.env['EUPHONOS_LOG'] ?? 'warn' }, pino.destination(2));
