import { KernelInstance, type KernelModule } from '../kernels/instance.js';
import { bandFeature, SPEECH_BANDS } from './speech-bands.js';
import { speechWeights } from './speech-weights.js';

/** Frames that the model hears after the one it tells of. */
export const SPEECH_LOOK_AHEAD = speechWeights.lookAhead;
export const SPEECH_HIDDEN = speechWeights.hidden;

const SILENT_STEPS = 400;
const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Base64 to bytes; the audio thread has no `atob`. */
function bytesOf(text: string): ArrayBuffer {
  const values = new Map(Array.from(ALPHABET, (letter, value) => [letter, value]));
  const bytes = new Uint8Array(Math.floor((text.replace(/=+$/, '').length * 3) / 4));
  for (let i = 0, to = 0; to < bytes.length; i += 4) {
    const four = [0, 1, 2, 3].reduce((sum, d) => sum * 64 + (values.get(text[i + d] ?? 'A') ?? 0), 0);
    for (const shift of [65536, 256, 1]) if (to < bytes.length) bytes[to++] = Math.floor(four / shift) % 256;
  }
  return bytes.buffer;
}

/** A matrix as it is stored: one scale a column, then steps of eight bits by rows. */
function matrix(text: string, columns: number): Float32Array {
  const bytes = bytesOf(text);
  const scales = new Float32Array(bytes, 0, columns);
  return Float32Array.from(new Int8Array(bytes, columns * 4), (step, i) => step * scales[i % columns]!);
}

let decoded: Readonly<Record<string, Float32Array>> | undefined;

/** The weights by the names under which the kernel holds them. */
function weights(): Readonly<Record<string, Float32Array>> {
  const gates = 3 * SPEECH_HIDDEN;
  return (decoded ??= {
    modelFirst: matrix(speechWeights.first, SPEECH_HIDDEN),
    modelFirstBias: new Float32Array(bytesOf(speechWeights.firstBias)),
    modelInto: matrix(speechWeights.into, gates),
    modelIntoBias: new Float32Array(bytesOf(speechWeights.intoBias)),
    modelAgain: matrix(speechWeights.again, gates),
    modelAgainBias: new Float32Array(bytesOf(speechWeights.againBias)),
    modelLast: matrix(speechWeights.last, SPEECH_BANDS),
    modelLastBias: new Float32Array(bytesOf(speechWeights.lastBias)),
  });
}

let silent: Float32Array | undefined;

/** What the model remembers after long silence: a recording starts from there, heard from its start or after a lead. */
function silentState(module: KernelModule): Float32Array {
  if (silent) return silent;
  const model = new SpeechModel(module);
  model.input.fill(bandFeature(0, 1));
  for (let step = 0; step < SILENT_STEPS; step++) model.step();
  return (silent = model.state.slice());
}

/** Puts the weights into a kernel instance that has set the model up. */
function loadSpeechWeights(kernel: KernelInstance): void {
  for (const [name, values] of Object.entries(weights())) kernel.floats(name, values.length).set(values);
}

/** Puts the weights, and what the model starts from, into a kernel instance that has set it up. */
export function loadSpeechModel(kernel: KernelInstance, module: KernelModule): void {
  loadSpeechWeights(kernel);
  kernel.floats('modelSilent', SPEECH_HIDDEN).set(silentState(module));
}

/**
 * The speech model by itself: tells of every band what share of its power is speech, from the level over the noise. A
 * dense layer, a gated recurrent layer (Cho et al. 2014), a dense layer; made by bench/train. One a channel.
 */
export class SpeechModel {
  /** Fill with `bandFeature` of each band, then call `step`. */
  readonly input: Float32Array;
  /** Shares, 0 … 1, of the frame SPEECH_LOOK_AHEAD steps ago. */
  readonly output: Float32Array;
  readonly state: Float32Array;
  readonly step: () => void;

  constructor(module: KernelModule) {
    const kernel = new KernelInstance(module, 'speechModelSetUp', SPEECH_BANDS, SPEECH_HIDDEN);
    this.input = kernel.floats('modelInput', SPEECH_BANDS);
    this.output = kernel.floats('modelOutput', SPEECH_BANDS);
    this.state = kernel.floats('modelState', SPEECH_HIDDEN);
    this.step = kernel.call('speechModelStep');
    loadSpeechWeights(kernel);
  }
}
