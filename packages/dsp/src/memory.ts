/**
 * What processors remember for long, as a run of bytes: written while it has none, read once it was made from some. A processor
 * says what it remembers once, for both directions: each call takes the value as it is and leaves it as it is to be.
 */
export class Memory {
  #bytes: ArrayBuffer;
  #view: DataView;
  #at = 0;
  readonly #reads: boolean;

  /** @param bytes what another wrote in the same order; without them it is written. */
  constructor(bytes?: ArrayBuffer) {
    this.#reads = bytes !== undefined;
    this.#bytes = bytes ?? new ArrayBuffer(4096);
    this.#view = new DataView(this.#bytes);
  }

  /** A number in double precision; returns what it is to be. */
  number(value: number): number {
    const at = this.#next(8);
    if (this.#reads) return this.#view.getFloat64(at);
    this.#view.setFloat64(at, value);
    return value;
  }

  /** A list in single precision; when reading it is written over. */
  floats(list: Float32Array): void {
    const at = this.#next(4 * list.length);
    const held = new Float32Array(this.#bytes, at, list.length);
    if (this.#reads) list.set(held);
    else held.set(list);
  }

  /** A number that lies elsewhere. */
  cell(cell: { value: number }): void {
    cell.value = this.number(cell.value);
  }

  /** What was written. */
  get bytes(): ArrayBuffer {
    return this.#bytes.slice(0, this.#at);
  }

  #next(count: number): number {
    const at = this.#at;
    // Lists begin at whole words.
    this.#at += (count + 7) & ~7;
    if (this.#at <= this.#bytes.byteLength) return at;
    if (this.#reads) throw new RangeError(`What was remembered has ${this.#bytes.byteLength} bytes; ${this.#at} are asked for.`);
    const larger = new ArrayBuffer(Math.max(this.#at, 2 * this.#bytes.byteLength));
    new Uint8Array(larger).set(new Uint8Array(this.#bytes));
    this.#bytes = larger;
    this.#view = new DataView(larger);
    return at;
  }
}
