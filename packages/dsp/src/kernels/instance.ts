/** The compiled kernels (WebAssembly.Module): compile once, hand to every thread and worklet. */
export type KernelModule = object;

export interface WebAssemblyApi {
  Instance: new (module: KernelModule, imports: object) => { exports: Record<string, unknown> };
  Module: { new (bytes: ArrayBuffer): object; customSections(module: object, name: string): ArrayBuffer[] };
}

// Named here and not taken from the DOM typings: this package must compile without a DOM.
const { Instance } = (globalThis as unknown as { WebAssembly: WebAssemblyApi }).WebAssembly;

/** One kernel object with memory of its own: set up once, then its addresses are fixed. */
export class KernelInstance {
  readonly #exports: Record<string, unknown>;

  constructor(module: KernelModule, setUp: string, ...args: number[]) {
    this.#exports = new Instance(module, {}).exports;
    this.call<(...values: number[]) => void>(setUp)(...args);
  }

  /** An exported function, to be kept by the caller. */
  call<T>(name: string): T {
    return this.#exports[name] as T;
  }

  /** One exported number, to be read and set. */
  number(name: string): { value: number } {
    return this.#exports[name] as { value: number };
  }

  /** A view of `length` floats at an exported address. */
  floats(name: string, length: number): Float32Array {
    return new Float32Array(this.#memory, this.#address(name), length);
  }

  /** A view of `length` bytes with sign at an exported address. */
  bytes(name: string, length: number): Int8Array {
    return new Int8Array(this.#memory, this.#address(name), length);
  }

  /** A view of `length` doubles at an exported address. */
  doubles(name: string, length: number): Float64Array {
    return new Float64Array(this.#memory, this.#address(name), length);
  }

  /** A view of `length` whole numbers at an exported address. */
  ints(name: string, length: number): Int32Array {
    return new Int32Array(this.#memory, this.#address(name), length);
  }

  get #memory(): ArrayBuffer {
    return (this.#exports['memory'] as { buffer: ArrayBuffer }).buffer;
  }

  #address(name: string): number {
    return (this.#exports[name] as { value: number }).value;
  }
}
