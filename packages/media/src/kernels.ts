import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { KernelModule } from '@euphonos/dsp';

/** Compiles the kernels of packages/dsp. Once a process or thread is enough. */
export function loadKernels(): KernelModule {
  const path = fileURLToPath(new URL('../../dsp/kernels/kernels.wasm', import.meta.url));
  return new (globalThis as unknown as { WebAssembly: { Module: new (bytes: Uint8Array) => object } }).WebAssembly.Module(
    readFileSync(path),
  );
}
