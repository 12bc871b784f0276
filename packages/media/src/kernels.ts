import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { KernelModule } from '@euphonos/dsp';

/** Compiles the kernels of packages/dsp. Once a process or thread is enough. */
export function loadKernels(): KernelModule {
  const path = createRequire(import.meta.url).resolve('@euphonos/dsp/kernels.wasm');
  return new (globalThis as unknown as { WebAssembly: { Module: new (bytes: Uint8Array) => object } }).WebAssembly.Module(
    readFileSync(path),
  );
}
