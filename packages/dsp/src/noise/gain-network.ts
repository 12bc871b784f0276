import type { KernelInstance, KernelModule, WebAssemblyApi } from '../kernels/instance.js';

const { Module } = (globalThis as unknown as { WebAssembly: WebAssemblyApi }).WebAssembly;

// The shape of the network, as bench/train/model.py has it.
const SINGLE = 171;
const WIDE = 45;
/** Bands: single bins to 4 kHz (at 24 or 48 kHz), then a few wider ones up to 12 kHz. */
export const GAIN_BANDS = SINGLE + WIDE;
export const GAIN_SINGLE = SINGLE;
const HIDDEN = 192;
const LOCAL_PARTS = 17;
const LOCAL_UNITS = 6;

/** First bin of each wide band, and the bin after the last. */
const wideEdges = Int32Array.from({ length: WIDE + 1 }, (_, i) => Math.round(SINGLE * 3 ** (i / WIDE)));

const GATES = 3 * HIDDEN;
const MAPS = 3 * GAIN_BANDS;
const vectors = {
  firstBias: HIDDEN,
  intoBias1: GATES,
  againBias1: GATES,
  intoBias2: GATES,
  againBias2: GATES,
  mapsBias: MAPS,
  localWeights: LOCAL_PARTS * LOCAL_UNITS,
  localBias: LOCAL_UNITS,
  joinWeights: LOCAL_UNITS + 1,
  skipWeights: 5 * GAIN_BANDS,
} as const;
/** Outputs and inputs of each matrix. */
const matrices = {
  first: [HIDDEN, 2 * GAIN_BANDS],
  into1: [GATES, HIDDEN],
  again1: [GATES, HIDDEN],
  into2: [GATES, HIDDEN],
  again2: [GATES, HIDDEN],
  maps: [MAPS, HIDDEN],
} as const;

/** Of `into1` the weights are `intoWeights1` in the kernels, and the scales `intoScales1`. */
const kernelName = (matrix: string, what: 'Weights' | 'Scales'): string => matrix.replace(/^([a-z]+)(\d?)$/, `$1${what}$2`);

/** Everything by the names under which the kernels hold it. */
export interface GainWeights {
  readonly floats: Readonly<Record<string, Float32Array>>;
  readonly bytes: Readonly<Record<string, Int8Array>>;
}

const read = new WeakMap<KernelModule, GainWeights>();

/** The weights of the gain network: they travel in the file of the kernels, made by bench/train. */
export function gainWeights(kernels: KernelModule): GainWeights {
  const known = read.get(kernels);
  if (known) return known;
  const [section] = Module.customSections(kernels, 'gain-network');
  if (!section) throw new Error('kernels.wasm holds no gain network: build it with scripts/build.mjs.');
  let at = 0;
  const take = (bytes: number): ArrayBuffer => section.slice(at, (at += bytes));
  const floats: Record<string, Float32Array> = {};
  const bytes: Record<string, Int8Array> = {};
  for (const [name, count] of Object.entries(vectors)) floats[name] = new Float32Array(take(4 * count));
  for (const [name, [outputs]] of Object.entries(matrices)) floats[kernelName(name, 'Scales')] = new Float32Array(take(4 * outputs));
  for (const [name, [outputs, inputs]] of Object.entries(matrices))
    bytes[kernelName(name, 'Weights')] = new Int8Array(take(outputs * inputs));
  const made = { floats, bytes };
  read.set(kernels, made);
  return made;
}

const OF_BANDS = ['localWeights', 'localBias', 'joinWeights', 'skipWeights'] as const;

/** Puts the part of the bands into a kernel of noise reduction that has set it up. */
export function loadGainBands(kernel: KernelInstance, kernels: KernelModule): void {
  const { floats } = gainWeights(kernels);
  for (const name of OF_BANDS) kernel.floats(name, floats[name]!.length).set(floats[name]!);
  kernel.ints('wideStart', WIDE + 1).set(wideEdges);
}

/** Puts the trunk's weights into a kernel that has set it up. */
export function loadGainTrunk(kernel: KernelInstance, kernels: KernelModule): void {
  const { floats, bytes } = gainWeights(kernels);
  for (const [name, values] of Object.entries(floats))
    if (!(OF_BANDS as readonly string[]).includes(name)) kernel.floats(name, values.length).set(values);
  for (const [name, [, inputs]] of Object.entries(matrices)) {
    const weights = bytes[kernelName(name, 'Weights')]!;
    sideBySide(weights, inputs, kernel.bytes(kernelName(name, 'Weights'), weights.length));
  }
}

/** The rows of a matrix as the kernel walks through them: of four rows sixteen weights each, then the next sixteen. */
function sideBySide(weights: Int8Array, inputs: number, into: Int8Array): void {
  let to = 0;
  for (let row = 0; row * inputs < weights.length; row += 4)
    for (let from = 0; from < inputs; from += 16)
      for (let r = row; r < row + 4; r++, to += 16) into.set(weights.subarray(r * inputs + from, r * inputs + from + 16), to);
}

export const GAIN_TRUNK_SHAPE = [2 * GAIN_BANDS, HIDDEN, MAPS] as const;
export const GAIN_STATE = 2 * HIDDEN;
