// The share of speech in every bin of a frame: power over the noise by band, the model (./speech-model), and straight lines
// between the bands.
import { allocate } from './memory';
import { noisePower } from './noise-estimate';
import { modelInput, modelOutput, modelSilent, modelState, speechModelSetUp, speechModelStep } from './speech-model';

let bins: i32 = 0;
let bands: i32 = 0;
let hidden: i32 = 0;
/** First bin of each band, and the bin after the last. */
export let bandStart: usize = 0;
/** Share of speech in each bin, as the model says of its band; of the frame that is weighed. */
export let share: usize = 0;
/** Mean share of the bands. */
export let presence: f32 = 1;

export function speechSharesSetUp(binCount: i32, bandCount: i32, hiddenCount: i32): void {
  bins = binCount;
  bands = bandCount;
  hidden = hiddenCount;
  speechModelSetUp(bandCount, hiddenCount);
  bandStart = allocate((bandCount + 1) << 2);
  share = allocate((binCount << 2) + 32);
}

export function speechSharesReset(): void {
  memory.fill(share, 0, bins << 2);
  memory.copy(modelState, modelSilent, hidden << 2);
}

/** Hears a frame of this power; shares are then those of the frame that is weighed. */
export function hearFrame(power: usize, threshold: f32): void {
  tellModel(power, threshold);
  speechModelStep();
  spreadShares();
}

/** What the model is told of each band: the logarithm of the power over the noise (src/noise/speech-bands.ts). */
function tellModel(power: usize, threshold: f32): void {
  for (let b = 0; b < bands; b++) {
    let heard: f32 = 0;
    let noise: f32 = 1e-12;
    const to = load<i32>(bandStart + (<usize>(b + 1) << 2));
    for (let k = load<i32>(bandStart + (<usize>b << 2)); k < to; k++) {
      heard += load<f32>(power + (<usize>k << 2));
      noise += load<f32>(noisePower + (<usize>k << 2));
    }
    store<f32>(modelInput + (<usize>b << 2), <f32>(Math.log(<f64>(heard / (noise * threshold)) + 0.01) / 3));
  }
}

/** Shares of the bands to shares of the bins, straight lines from centre to centre. */
function spreadShares(): void {
  let sum: f32 = 0;
  for (let b = 0; b < bands; b++) sum += load<f32>(modelOutput + (<usize>b << 2));
  presence = sum / <f32>bands;
  let k = 0;
  let before: f32 = load<f32>(modelOutput);
  let centreBefore: f32 = 0;
  for (let b = 0; b < bands; b++) {
    const first = load<i32>(bandStart + (<usize>b << 2));
    const after = load<i32>(bandStart + (<usize>(b + 1) << 2));
    const centre: f32 = <f32>(first + after - 1) * 0.5;
    const here = load<f32>(modelOutput + (<usize>b << 2));
    const slope: f32 = (here - before) / max<f32>(centre - centreBefore, 0.5);
    for (; k < bins && <f32>k <= centre; k++) store<f32>(share + (<usize>k << 2), before + slope * (<f32>k - centreBefore));
    before = here;
    centreBefore = centre;
  }
  // What is above the bands goes with the uppermost: an s reaches beyond.
  for (; k < bins && (k & 3) != 0; k++) store<f32>(share + (<usize>k << 2), before);
  for (; k < bins; k += 4) v128.store(share + (<usize>k << 2), f32x4.splat(before));
}
