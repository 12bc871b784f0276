import type { EndTake, StartTake } from '@euphonos/contracts';
import type { TakeLine } from '../take-sender.js';
import type { KeptFacts, OpenTake, TakeStore } from '../take-store.js';

/** A disk that outlives recorders. */
export class Disk implements TakeStore {
  readonly files = new Map<string, { samples: number[]; facts: KeptFacts | null }>();
  mostSamples = Infinity;
  /** Held by another window. */
  readonly locked = new Set<string>();
  open(id: string): Promise<OpenTake> {
    if (this.locked.has(id)) return Promise.reject(new DOMException('in use', 'NoModificationAllowedError'));
    const file = this.files.get(id) ?? { samples: [], facts: null };
    this.files.set(id, file);
    const isFull = (samples: number): boolean => samples > this.mostSamples;
    return Promise.resolve({
      get samples() {
        return file.samples.length;
      },
      append: (samples) => {
        if (isFull(file.samples.length + samples.length)) throw new DOMException('full', 'QuotaExceededError');
        for (const x of samples) file.samples.push(x);
      },
      read: (from, count) => Float32Array.from(file.samples.slice(from, from + count)),
      keepFacts: (facts) => void (file.facts = JSON.parse(JSON.stringify(facts)) as KeptFacts),
      close: () => undefined,
    });
  }
  list() {
    return Promise.resolve([...this.files].flatMap(([id, { facts }]) => (facts ? [{ id, facts }] : [])));
  }
  remove(id: string) {
    this.files.delete(id);
    return Promise.resolve();
  }
}

/** A server that can be down, and that forgets nothing but what it is told to. */
export class Server implements TakeLine {
  readonly takes = new Map<string, { start: StartTake; samples: number[]; end: EndTake | null }>();
  down = false;
  #answer<T>(act: () => T): Promise<T> {
    return this.down ? Promise.reject(new TypeError('Failed to fetch')) : Promise.resolve().then(act);
  }
  start(take: StartTake) {
    return this.#answer(() => {
      if (!this.takes.has(take.id)) this.takes.set(take.id, { start: take, samples: [], end: null });
    });
  }
  sound(id: string, from: number, samples: Float32Array) {
    return this.#answer(() => {
      const take = this.takes.get(id);
      if (!take) throw { status: 404, code: 'not-found', message: 'gone' };
      if (from > take.samples.length) throw { status: 409, code: 'take-gap', data: { frames: take.samples.length } };
      samples.forEach((x, n) => (take.samples[from + n] = x));
      return take.samples.length;
    });
  }
  end(id: string, end: EndTake) {
    return this.#answer(() => void (this.takes.get(id)!.end = end));
  }
  drop(id: string) {
    return this.#answer(() => void this.takes.delete(id));
  }
}
