import type { KernelModule, WebAssemblyApi } from './instance.js';

const { Instance, Module } = (globalThis as unknown as { WebAssembly: WebAssemblyApi }).WebAssembly;

/** Samples in a frame: 10 ms at 48 kHz, the rate that the network was trained for. */
export const SUPPRESSOR_FRAME = 480;
/** What comes out belongs to the sample that came in so many before. */
export const SUPPRESSOR_DELAY = 480;
/** The network knows samples of 16 bits. */
const SCALE = 32768;
const PAGE_BYTES = 65536;

/** Names of the library's binary (its own glue code maps them so). */
interface Exports {
  readonly c: { readonly buffer: ArrayBuffer; grow(pages: number): number };
  readonly d: () => void;
  readonly e: (state: number, model: number) => number;
  readonly f: (model: number) => number;
  readonly g: (bytes: number) => number;
  readonly j: (state: number, out: number, input: number) => number;
}

/** Compiled once a process: it travels in the file of the kernels. */
const compiled = new WeakMap<KernelModule, object>();

function moduleOf(kernels: KernelModule): object {
  const known = compiled.get(kernels);
  if (known) return known;
  const [bytes] = Module.customSections(kernels, 'suppressor');
  if (!bytes) throw new Error('kernels.wasm holds no suppressor: build it with scripts/build.mjs.');
  const made = new Module(bytes);
  compiled.set(kernels, made);
  return made;
}

/**
 * A recurrent network that lets voices through: RNNoise (J.-M. Valin, A hybrid DSP/deep learning approach to real-time
 * full-band speech enhancement, 2018), as the library that it is published as. One channel.
 */
export class Suppressor {
  readonly #exports: Exports;
  readonly #state: number;
  readonly #frame: Float32Array;

  constructor(kernels: KernelModule) {
    let memory: Exports['c'] | undefined;
    const grow = (bytes: number): number => {
      const pages = Math.ceil((Math.max(0, bytes) - memory!.buffer.byteLength) / PAGE_BYTES);
      return pages <= 0 || memory!.grow(pages) >= 0 ? 1 : 0;
    };
    const copy = (to: number, from: number, bytes: number): void => void new Uint8Array(memory!.buffer).copyWithin(to, from, from + bytes);
    const { exports } = new Instance(moduleOf(kernels), { a: { a: grow, b: copy } });
    this.#exports = exports as unknown as Exports;
    memory = this.#exports.c;
    this.#exports.d();
    this.#state = this.#exports.f(0);
    const address = this.#exports.g(SUPPRESSOR_FRAME * 4);
    this.#frame = new Float32Array(memory.buffer, address, SUPPRESSOR_FRAME);
  }

  /** The voice in a frame, in its place. */
  process(samples: Float32Array): void {
    const frame = this.#frame;
    for (let n = 0; n < SUPPRESSOR_FRAME; n++) frame[n] = samples[n]! * SCALE;
    this.#exports.j(this.#state, frame.byteOffset, frame.byteOffset);
    for (let n = 0; n < SUPPRESSOR_FRAME; n++) samples[n] = frame[n]! / SCALE;
  }

  /** Forgets what it heard. */
  reset(): void {
    this.#exports.e(this.#state, 0);
  }
}
