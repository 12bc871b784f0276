/** Tells those who listen that something has changed. */
export class Signal {
  readonly #listeners = new Set<() => void>();

  /** Calls back at every change, until the returned function is called. */
  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  readonly tell = (): void => {
    for (const listener of this.#listeners) listener();
  };

  clear(): void {
    this.#listeners.clear();
  }
}
