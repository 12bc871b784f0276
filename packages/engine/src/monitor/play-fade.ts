import type { PlanarBlock } from '@euphonos/dsp';

/** In at the start, out before a stop or a jump. */
export class PlayFade {
  #gain = 0;

  constructor(private readonly step: number) {}

  get silent(): boolean {
    return this.#gain === 0;
  }

  reset(): void {
    this.#gain = 0;
  }

  /** In place; towards silence when `leaving`. True once it is silent then. */
  apply(block: PlanarBlock, frames: number, leaving: boolean): boolean {
    if (!leaving && this.#gain >= 1) return false;
    const step = leaving ? -this.step : this.step;
    for (let n = 0; n < frames; n++) {
      this.#gain = Math.max(0, Math.min(1, this.#gain + step));
      for (const samples of block) samples[n]! *= this.#gain;
    }
    return leaving && this.#gain === 0;
  }
}
