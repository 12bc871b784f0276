import kernelsUrl from '@euphonos/dsp/kernels.wasm?url';

let module: Promise<WebAssembly.Module> | undefined;

/** The compiled kernels: compiled once, handed to the worklet and to workers. */
export function loadKernels(): Promise<WebAssembly.Module> {
  return (module ??= fetch(kernelsUrl)
    .then((response) => response.arrayBuffer())
    .then((bytes) => WebAssembly.compile(bytes)));
}
