/** Doubles, appended without boxing: an hour of blocks is 288 KB. */
export class GrowingList {
  #data = new Float64Array(1024);
  #length = 0;

  push(value: number): void {
    if (this.#length === this.#data.length) {
      const larger = new Float64Array(this.#length * 2);
      larger.set(this.#data);
      this.#data = larger;
    }
    this.#data[this.#length++] = value;
  }

  values(): Float64Array {
    return this.#data.subarray(0, this.#length);
  }
}
