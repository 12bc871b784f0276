import { needsProfile, takeNoiseProfile, type ChainSpec, type NoiseProfile, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { spanFrames, type Span } from '../document/document.js';
import { runThrough } from './run-through.js';

/** So much is read before and after a passage, for the treatments before to settle: lines of hum take two seconds. */
const AROUND_SECONDS = 2;
/** Reading starts on the grid of the monitor, as every run of a chain does. */
const GRID_FRAMES = 2048;

/** What the noise passes before it is weighed: the sounding treatments before the first that needs a profile. */
export function chainBeforeProfile({ treatments }: ChainSpec): ChainSpec {
  const sounding = treatments.filter(({ bypassed }) => !bypassed);
  const at = sounding.findIndex(needsProfile);
  return { treatments: sounding.slice(0, Math.max(0, at)) };
}

/** The frames that `profilePassage` must be given for a passage; they may end beyond the recording. */
export function framesToProfile(spec: ChainSpec, passage: Span, sampleRateHz: number): Span {
  if (chainBeforeProfile(spec).treatments.length === 0) return passage;
  const around = AROUND_SECONDS * sampleRateHz;
  const start = Math.max(0, passage.startFrame - around);
  return { startFrame: start - (start % GRID_FRAMES), endFrame: passage.endFrame + around };
}

/**
 * The noise of a passage as it comes to the treatment that weighs by it: through everything that stands before. A
 * profile of the recording itself would be wrong as soon as something before it changes a level.
 * @param samples the frames of `framesToProfile`, one array a channel; fewer where the recording ends before.
 * @throws {DspError} `noise-too-short` for less than 0.3 s.
 */
export function profilePassage(context: ProcessorContext, spec: ChainSpec, samples: PlanarBlock, passage: Span): NoiseProfile {
  const before = chainBeforeProfile(spec);
  if (before.treatments.length === 0) return takeNoiseProfile(context.kernels, samples, context.sampleRateHz);
  const { startFrame } = framesToProfile(spec, passage, context.sampleRateHz);
  const from = passage.startFrame - startFrame;
  const treated = runThrough({ ...context, startFrame }, before, samples).map((sound) => sound.subarray(from, from + spanFrames(passage)));
  return takeNoiseProfile(context.kernels, treated, context.sampleRateHz);
}
