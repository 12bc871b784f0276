/** A list of numbers that grows as a recording streams by. */
export class Growing {
  #values = new Float32Array(1024);
  #length = 0;

  get length(): number {
    return this.#length;
  }

  push(value: number): void {
    if (this.#length === this.#values.length) {
      const more = new Float32Array(2 * this.#length);
      more.set(this.#values);
      this.#values = more;
    }
    this.#values[this.#length++] = value;
  }

  /** What was pushed so far. */
  get values(): Float32Array {
    return this.#values.subarray(0, this.#length);
  }
}

/** Value below which a share of the numbers lies; they are not changed. NaN of none. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = Float32Array.from(values).sort();
  return sorted.length === 0 ? NaN : sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
}

/** True runs of a row of flags, [from, to) each. */
export function runs(flags: ArrayLike<number | boolean>): (readonly [number, number])[] {
  const found: (readonly [number, number])[] = [];
  for (let i = 0; i < flags.length; i++) {
    if (!flags[i]) continue;
    const from = i;
    while (i < flags.length && flags[i]) i++;
    found.push([from, i]);
  }
  return found;
}
