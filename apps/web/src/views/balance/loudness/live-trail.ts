import { COURSE_STEP_SECONDS } from '@euphonos/dsp';
import { Signal } from '../../../signal.js';

/** What the meter said where it played: loudness by steps of 100 ms, as it was heard last. */
export class LiveTrail {
  readonly #heard = new Map<number, number>();
  #last: number | null = null;
  readonly #changes = new Signal();
  readonly subscribe = this.#changes.subscribe;

  /** @param atSeconds the middle of the window that the meter heard */
  note(atSeconds: number, lufs: number): void {
    const step = Math.round(atSeconds / COURSE_STEP_SECONDS);
    if (step < 0 || !Number.isFinite(lufs) || step === this.#last) return;
    this.#last = step;
    this.#heard.set(step, lufs);
    this.#changes.tell();
  }

  clear(): void {
    this.#heard.clear();
    this.#last = null;
    this.#changes.tell();
  }

  /** Runs without a gap, in order of time: seconds and LUFS. */
  get runs(): (readonly [atSeconds: number, lufs: number])[][] {
    const runs: [number, number][][] = [];
    let before = -Infinity;
    for (const step of [...this.#heard.keys()].sort((a, b) => a - b)) {
      // A step may be passed over where the page draws slowly.
      if (step - before > 3) runs.push([]);
      runs[runs.length - 1]!.push([step * COURSE_STEP_SECONDS, this.#heard.get(step)!]);
      before = step;
    }
    return runs;
  }
}
