/** What goes with every change, so that no other page can make one with our cookie alone; null where there are no accounts. */
let token: string | null = null;
const listeners = new Set<(token: string | null) => void>();
const outListeners = new Set<() => void>();

/** Whose it is; empty where there are no accounts. */
let person = '';

export const personHere = (): string => person;

export function setToken(next: string | null, personId = ''): void {
  token = next;
  person = personId;
  listeners.forEach((call) => call(next));
}

export const tokenHeaders = (): Record<string, string> => (token === null ? {} : { 'x-euphonos-token': token });

/** Calls back now and whenever it changes: workers have a line of their own. Returns how to stop. */
export function onToken(call: (token: string | null) => void): () => void {
  listeners.add(call);
  call(token);
  return () => void listeners.delete(call);
}

/** Calls back when the server says that nobody is signed in here any more. */
export function onSignedOut(call: () => void): () => void {
  outListeners.add(call);
  return () => void outListeners.delete(call);
}

export const tellSignedOut = (): void => outListeners.forEach((call) => call());
