const CHUNK = 4096;

/** Doubles, appended without boxing and without moving what is there: an hour of loudness blocks is 288 KB. */
export class GrowingList {
  readonly #chunks: Float64Array[] = [];
  #length = 0;

  push(value: number): void {
    if (this.#length % CHUNK === 0) this.#chunks.push(new Float64Array(CHUNK));
    this.#chunks[this.#chunks.length - 1]![this.#length++ % CHUNK] = value;
  }

  get length(): number {
    return this.#length;
  }

  at(index: number): number {
    return this.#chunks[Math.floor(index / CHUNK)]![index % CHUNK]!;
  }

  /** All of them, one after the other in an array of their own. */
  values(): Float64Array {
    const all = new Float64Array(this.#length);
    this.#chunks.forEach((chunk, i) => all.set(chunk.subarray(0, Math.min(CHUNK, this.#length - i * CHUNK)), i * CHUNK));
    return all;
  }
}
