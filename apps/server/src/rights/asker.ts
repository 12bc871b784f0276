import { AsyncLocalStorage } from 'node:async_hooks';
import type { Role } from '@euphonos/contracts';
import { AppProblem } from '../problems/app-problem.js';

/** Whoever asks, where several people share the installation. */
export interface Asker {
  readonly personId: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  /** The sign-in that the cookie names. */
  readonly signInId: string;
  readonly token: string;
  /** The password was given here a moment ago. */
  readonly proven: boolean;
  /** A second step is set up. */
  readonly hasSecondStep: boolean;
}

interface Asking {
  readonly shared: boolean;
  readonly asker: Asker | null;
}

const asking = new AsyncLocalStorage<Asking>();

/** Runs what a request asks for, so that everything below knows for whom. */
export const inAsking = <T>(who: Asking, work: () => T): T => asking.run(who, work);

/** Who asks; null where nobody is signed in, where there are no accounts, and in work that nobody waits for. */
export const asker = (): Asker | null => asking.getStore()?.asker ?? null;

/** Who asks, of what is for people with accounts alone. @throws {AppProblem} `not-shared` where there are none */
export function requireAsker(): Asker {
  const person = asker();
  if (!person) throw new AppProblem(409, 'not-shared', 'This installation has no accounts. EUPHONOS_SHARED=1 makes a shared one of it.');
  return person;
}

/** The person that owns what is made now; null where there are no accounts. */
export const askerId = (): string | null => asker()?.personId ?? null;

/**
 * Whether all there is may be seen: by an owner, and where there are no accounts (or nobody asks: jobs and sweeps). A request of
 * somebody who is not signed in sees nothing.
 */
export const seesAll = (): boolean => {
  const who = asking.getStore();
  return who === undefined || !who.shared || who.asker?.role === 'owner';
};
