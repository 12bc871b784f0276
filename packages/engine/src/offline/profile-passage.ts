import {
  joinProfiles,
  needsProfile,
  takeNoiseProfile,
  type ChainSpec,
  type NoiseProfile,
  type PlanarBlock,
  type ProcessorContext,
} from '@euphonos/dsp';
import { inPlace } from '../arrangement/placed-chain.js';
import { Placer } from '../arrangement/places.js';
import type { Clip } from '../document/clip.js';
import type { NoisePassageSpan } from '../document/document.js';
import { spanFrames, type Span } from '../document/span.js';
import { EngineError } from '../errors.js';
import { runThrough } from './run-through.js';

/** So much is read before and after a passage, for the treatments before to settle: lines of hum take two seconds. */
const AROUND_SECONDS = 2;
/** Reading starts on the grid of the monitor, as every run of a chain does. */
const GRID_FRAMES = 2048;

/** Reads frames [startFrame, endFrame) of the channels that are treated; fewer where the recording ends before. */
export type ReadFrames = (startFrame: number, endFrame: number) => Promise<PlanarBlock>;

/** What the noise passes before it is weighed: the sounding treatments before the first that needs a profile. */
export function chainBeforeProfile({ treatments }: ChainSpec): ChainSpec {
  const sounding = treatments.filter(({ bypassed }) => !bypassed);
  const at = sounding.findIndex(needsProfile);
  return { treatments: sounding.slice(0, Math.max(0, at)) };
}

/**
 * The noise of passages as it comes to the treatment that weighs by it: through everything that stands before. A
 * profile of the recording itself would be wrong as soon as something before it changes a level. Passages that are the noise of one
 * recording alone make a place of the profile, all of them together what counts elsewhere.
 * @throws {DspError} `noise-too-short` for a passage of less than 0.3 s; {EngineError} `span-outside` beyond the recording.
 */
export async function profilePassages(
  context: ProcessorContext,
  spec: ChainSpec,
  passages: readonly NoisePassageSpan[],
  read: ReadFrames,
): Promise<NoiseProfile> {
  const before = chainBeforeProfile(spec);
  const profiles: NoiseProfile[] = [];
  for (const passage of passages) profiles.push(await profileOne(context, before, passage, read));
  const all = joinProfiles(profiles);
  const starts = [...new Set(passages.flatMap(({ within }) => within?.startFrame ?? []))].sort((a, b) => a - b);
  if (starts.length === 0) return all;
  const places = starts.map((startFrame) => {
    const own = profiles.filter((_, i) => passages[i]!.within?.startFrame === startFrame);
    const { endFrame } = passages.find(({ within }) => within?.startFrame === startFrame)!.within!;
    return { startFrame, endFrame, channels: joinProfiles(own).channels };
  });
  return { ...all, places };
}

/** A profile with places in the recordings, for the sound of clips: with where these sound. */
export function placedProfile(profile: NoiseProfile, clips: readonly Clip[]): NoiseProfile {
  if (!profile.places || inPlace(clips)) return profile;
  const placer = new Placer(clips);
  const places = profile.places
    .flatMap(({ channels, ...span }) => placer.placesOf(span).map((place) => ({ ...place, channels })))
    .sort((a, b) => a.startFrame - b.startFrame);
  return { ...profile, places };
}

async function profileOne(context: ProcessorContext, before: ChainSpec, passage: Span, read: ReadFrames): Promise<NoiseProfile> {
  const { kernels, sampleRateHz } = context;
  const around = before.treatments.length === 0 ? 0 : AROUND_SECONDS * sampleRateHz;
  const reach = Math.max(0, passage.startFrame - around);
  const startFrame = around === 0 ? reach : reach - (reach % GRID_FRAMES);
  const samples = await read(startFrame, passage.endFrame + around);
  const from = passage.startFrame - startFrame;
  const end = startFrame + (samples[0]?.length ?? 0);
  if (end < passage.endFrame)
    throw new EngineError(
      'span-outside',
      `The noise passage ends at ${(passage.endFrame / sampleRateHz).toFixed(2)} s, after the recording, which is ${(end / sampleRateHz).toFixed(2)} s long or less.`,
      { passage },
    );
  const treated = around === 0 ? samples : runThrough({ ...context, startFrame }, before, samples);
  return takeNoiseProfile(
    kernels,
    treated.map((sound) => sound.subarray(from, from + spanFrames(passage))),
    sampleRateHz,
  );
}
