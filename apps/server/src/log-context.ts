import { AsyncLocalStorage } from 'node:async_hooks';

/** What every line of the log says of whom it is about. */
export interface LogContext {
  readonly requestId?: string;
  readonly jobId?: string;
  readonly personId?: string;
}

const context = new AsyncLocalStorage<LogContext>();

/** Runs work of which every line in the log says that it belongs to it; inner work adds to what the outer says. */
export const inLogContext = <T>(more: LogContext, work: () => T): T => context.run({ ...context.getStore(), ...more }, work);

export const logContext = (): LogContext => context.getStore() ?? {};
