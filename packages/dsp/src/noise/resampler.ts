/** Zeros of the kernel to either side, at the lower of both rates. */
const LOBES = 12;

/**
 * Up by one whole factor, or down by one: a windowed sinc (Hann), polyphase. `delayFrames` is its delay in samples that come out.
 */
export class Resampler {
  readonly delayFrames: number;
  /** The last samples that came in, twice in a row so that any stretch of them lies together. */
  readonly #held: Float64Array;
  readonly #taps: readonly Float64Array[];
  readonly #length: number;
  #at = 0;
  #phase = 0;

  constructor(
    private readonly up: number,
    private readonly down: number,
  ) {
    const factor = Math.max(up, down);
    const reach = LOBES * factor;
    this.delayFrames = factor === 1 ? 0 : up > 1 ? reach : LOBES;
    // At the higher rate; pieces of it, one a phase, for what goes up.
    const tap = (n: number): number => {
      const x = n / factor;
      const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
      return Math.abs(n) > reach ? 0 : sinc * (0.5 + 0.5 * Math.cos((Math.PI * n) / (reach + 1))) * (up > 1 ? 1 : 1 / factor);
    };
    this.#length = factor === 1 ? 1 : up > 1 ? 2 * LOBES + 1 : 2 * reach + 1;
    this.#taps = Array.from({ length: up }, (_, phase) =>
      Float64Array.from({ length: this.#length }, (_, i) => (factor === 1 ? 1 : up > 1 ? tap(phase + (i - LOBES) * up) : tap(i - reach))),
    );
    this.#held = new Float64Array(2 * this.#length);
  }

  push(x: number, take: (y: number) => void): void {
    if (this.up === 1 && this.down === 1) return take(x);
    const length = this.#length;
    // Newest last.
    this.#held[this.#at] = this.#held[this.#at + length] = x;
    this.#at = (this.#at + 1) % length;
    const due = this.#phase === 0;
    this.#phase = (this.#phase + 1) % this.down;
    if (!due) return;
    for (const taps of this.#taps) {
      let sum = 0;
      for (let i = 0; i < length; i++) sum += taps[length - 1 - i]! * this.#held[this.#at + i]!;
      take(sum);
    }
  }

  /** How many samples have come out when so many have come in. */
  madeAt(frame: number): number {
    return Math.ceil(frame / this.down) * this.up;
  }

  goOnAt(frame: number): void {
    this.#phase = frame % this.down;
  }

  reset(): void {
    this.#held.fill(0);
    this.#at = 0;
    this.#phase = 0;
  }
}
