/** The latest frames, interleaved. */
export class Ring {
  readonly #samples: Float32Array;
  #end = 0;
  #filled = 0;

  constructor(
    readonly frames: number,
    private readonly channels: number,
  ) {
    this.#samples = new Float32Array(frames * channels);
  }

  push(interleaved: Float32Array): void {
    const size = this.#samples.length;
    const part = interleaved.length > size ? interleaved.subarray(interleaved.length - size) : interleaved;
    const first = Math.min(part.length, size - this.#end);
    this.#samples.set(part.subarray(0, first), this.#end);
    this.#samples.set(part.subarray(first), 0);
    this.#end = (this.#end + part.length) % size;
    this.#filled = Math.min(size, this.#filled + part.length);
  }

  /** The latest `frames`, or as many as there are, in their order. */
  latest(frames: number): Float32Array {
    const size = this.#samples.length;
    const count = Math.min(this.#filled, frames * this.channels);
    const out = new Float32Array(count);
    const from = (this.#end - count + size) % size;
    const first = Math.min(count, size - from);
    out.set(this.#samples.subarray(from, from + first));
    out.set(this.#samples.subarray(0, count - first), first);
    return out;
  }
}

/** Channels one after the other, frame by frame. */
export function interleave(channels: readonly Float32Array[]): Float32Array {
  if (channels.length === 1) return channels[0]!;
  const out = new Float32Array(channels[0]!.length * channels.length);
  channels.forEach((samples, c) => samples.forEach((x, n) => (out[n * channels.length + c] = x)));
  return out;
}
