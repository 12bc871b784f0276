import type { Section } from './sections.js';

// Added at every section's input: without it, states decay into subnormal numbers in digital silence and
// each operation costs many times as much. -360 dBFS is far below anything that a 32-bit float file holds.
const KEEP_NORMAL = 1e-18;

/**
 * Second-order sections in series for one channel. Direct form II transposed in doubles: rounding stays
 * small with poles near 1 (a high-pass at 60 Hz). Four sections a pass, so that states live in registers.
 */
export class Cascade {
  readonly #coefficients: Float64Array;
  readonly #state: Float64Array;
  readonly #count: number;

  constructor(sections: readonly Section[]) {
    this.#count = sections.length;
    this.#coefficients = new Float64Array(sections.length * 5);
    this.#state = new Float64Array(sections.length * 2);
    this.set(sections);
  }

  /** Replaces the coefficients and keeps the state. The number of sections must be the one at creation. */
  set(sections: readonly Section[]): void {
    for (let i = 0; i < this.#count; i++) this.#coefficients.set(sections[i]!, i * 5);
  }

  reset(): void {
    this.#state.fill(0);
  }

  /** Filters samples[from … to) in place. */
  process(samples: Float32Array, from: number, to: number): void {
    let i = 0;
    for (; i + 4 <= this.#count; i += 4) this.#four(samples, from, to, i);
    for (; i < this.#count; i++) this.#one(samples, from, to, i);
  }

  #one(samples: Float32Array, from: number, to: number, at: number): void {
    const c = this.#coefficients;
    const o = at * 5;
    const b0 = c[o]!, b1 = c[o + 1]!, b2 = c[o + 2]!, a1 = c[o + 3]!, a2 = c[o + 4]!;
    let s = this.#state[at * 2]!;
    let t = this.#state[at * 2 + 1]!;
    for (let n = from; n < to; n++) {
      const x = samples[n]! + KEEP_NORMAL;
      const y = b0 * x + s;
      s = b1 * x - a1 * y + t;
      t = b2 * x - a2 * y;
      samples[n] = y;
    }
    this.#state[at * 2] = s;
    this.#state[at * 2 + 1] = t;
  }

  #four(samples: Float32Array, from: number, to: number, at: number): void {
    const c = this.#coefficients;
    const z = this.#state;
    let o = at * 5;
    const b0 = c[o]!, b1 = c[o + 1]!, b2 = c[o + 2]!, a1 = c[o + 3]!, a2 = c[o + 4]!;
    o += 5;
    const d0 = c[o]!, d1 = c[o + 1]!, d2 = c[o + 2]!, e1 = c[o + 3]!, e2 = c[o + 4]!;
    o += 5;
    const f0 = c[o]!, f1 = c[o + 1]!, f2 = c[o + 2]!, g1 = c[o + 3]!, g2 = c[o + 4]!;
    o += 5;
    const h0 = c[o]!, h1 = c[o + 1]!, h2 = c[o + 2]!, k1 = c[o + 3]!, k2 = c[o + 4]!;
    const p = at * 2;
    let s0 = z[p]!, t0 = z[p + 1]!, s1 = z[p + 2]!, t1 = z[p + 3]!;
    let s2 = z[p + 4]!, t2 = z[p + 5]!, s3 = z[p + 6]!, t3 = z[p + 7]!;
    for (let n = from; n < to; n++) {
      const x = samples[n]! + KEEP_NORMAL;
      const y = b0 * x + s0;
      s0 = b1 * x - a1 * y + t0;
      t0 = b2 * x - a2 * y;
      const u = y + KEEP_NORMAL;
      const v = d0 * u + s1;
      s1 = d1 * u - e1 * v + t1;
      t1 = d2 * u - e2 * v;
      const r = v + KEEP_NORMAL;
      const w = f0 * r + s2;
      s2 = f1 * r - g1 * w + t2;
      t2 = f2 * r - g2 * w;
      const q = w + KEEP_NORMAL;
      const out = h0 * q + s3;
      s3 = h1 * q - k1 * out + t3;
      t3 = h2 * q - k2 * out;
      samples[n] = out;
    }
    z[p] = s0; z[p + 1] = t0; z[p + 2] = s1; z[p + 3] = t1;
    z[p + 4] = s2; z[p + 5] = t2; z[p + 6] = s3; z[p + 7] = t3;
  }
}
