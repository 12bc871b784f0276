// The suppressor of `deep` noise reduction: a network of the registry that was trained elsewhere on much speech
// (@shiguredo/rnnoise-wasm, Apache-2.0). A package of its own: dsp depends on nothing, and this
// brings 5 MB and starts asynchronously, so a worklet never has it.
import { DspError, OPINION_FRAMES, provideSuppressor, type ChainSpec, type Memory, type Suppressor } from '@euphonos/dsp';

/** It expects samples as whole numbers of 16 bits. */
const SCALE = 32768;

/** What its object holds beside what its types say: where its memory lies. Checked when it is loaded. */
interface Held {
  readonly rnnoiseModule: { readonly HEAPF32: Float32Array };
  readonly state: number;
  readonly pcmInputBuf: number;
  processFrame(frame: Float32Array): number;
}

class Opinion implements Suppressor {
  readonly #held: Held;
  readonly #fresh: Float32Array;

  constructor(create: () => Held) {
    this.#held = create();
    this.#fresh = this.#state().slice();
  }

  process(frame: Float32Array): void {
    for (let n = 0; n < frame.length; n++) frame[n]! *= SCALE;
    this.#held.processFrame(frame);
    for (let n = 0; n < frame.length; n++) frame[n]! /= SCALE;
  }

  reset(): void {
    this.#state().set(this.#fresh);
  }

  remember(memory: Memory): void {
    memory.floats(this.#state());
  }

  /** Its state lies up to the buffer that was allocated after it. */
  #state(): Float32Array {
    const { rnnoiseModule, state, pcmInputBuf } = this.#held;
    return rnnoiseModule.HEAPF32.subarray(state >> 2, pcmInputBuf >> 2);
  }
}

let loading: Promise<void> | undefined;

async function load(): Promise<void> {
  // The module asks for a browser's or a worker's globals, and uses none of them.
  const host = globalThis as { window?: unknown; WorkerGlobalScope?: unknown };
  const bare = typeof host.window !== 'object' && host.WorkerGlobalScope === undefined;
  if (bare) host.WorkerGlobalScope = class {};
  try {
    const { Rnnoise } = await import('@shiguredo/rnnoise-wasm');
    const module = await Rnnoise.load();
    const create = (): Held => module.createDenoiseState() as unknown as Held;
    const { frameSize } = module;
    const { rnnoiseModule, state, pcmInputBuf } = create();
    const length = pcmInputBuf - state;
    if (frameSize !== OPINION_FRAMES || !(rnnoiseModule?.HEAPF32 instanceof Float32Array) || !(length > 1e4 && length < 1e6))
      throw new Error('@shiguredo/rnnoise-wasm is not built as this code expects: install the version that package.json names.');
    provideSuppressor(() => new Opinion(create));
  } finally {
    if (bare) delete host.WorkerGlobalScope;
  }
}

/** Whether a chain asks for the second network. */
export const needsOpinion = ({ treatments }: ChainSpec): boolean =>
  treatments.some(({ kind, bypassed, ...values }) => kind === 'noise-reduction' && !bypassed && values['network'] === 'deep');

/** Loads what a chain needs beside the kernels: call it before such a chain is made. Done at once for all others. */
export function readyFor(...specs: readonly ChainSpec[]): Promise<void> {
  if (!specs.some(needsOpinion)) return Promise.resolve();
  loading ??= load().catch((error: unknown) => {
    loading = undefined;
    throw new DspError(
      'opinion-missing',
      `The second network of deep noise reduction could not be loaded (${error instanceof Error ? error.message : String(error)}). Nothing is lost: choose the full network, or load the page again when the server answers.`,
    );
  });
  return loading;
}
