import { needsProfile, withoutDeep, type ChainSpec, type KernelModule, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import type { NoisePassageSpan } from '../document/document.js';
import { GRID_FRAMES } from '../monitor/memories.js';
import { chainBeforeProfile, profilePassages } from '../offline/profile-passage.js';
import { runThrough } from '../offline/run-through.js';

/** A chain hears this much before what is asked for, so that it has settled. */
const LEAD_FRAMES = 24 * GRID_FRAMES;
/** And this much after it, for what looks ahead. */
const BEYOND_FRAMES = 8192;

/** What the chain of a clip needs to be run. */
export interface ClipChainContext {
  readonly kernels: KernelModule;
  readonly sampleRateHz: number;
  /** What is known of the track's noise: its passages, or a profile that was kept. */
  readonly noise?: ClipNoise | undefined;
}

/** The same list as long as the noise is the same: what is taken from it is kept by it. */
export type ClipNoise = readonly NoisePassageSpan[] | NoiseProfile | null;

/** Profiles by the noise that they are of, and by what the chain does before they are weighed by. */
const taken = new WeakMap<object, Map<string, Promise<NoiseProfile>>>();

/** Whether a chain of a clip weighs by a profile. */
export const clipNeedsProfile = ({ treatments }: ChainSpec): boolean =>
  treatments.some((settings) => !settings.bypassed && needsProfile(settings));

/**
 * The noise of the track as it comes to the noise reduction of a clip's chain: of the recording itself, through what stands before it there.
 * undefined where nothing is known. A passage that cannot be profiled is one that is not known.
 */
export async function clipProfile(
  { kernels, sampleRateHz, noise = null }: ClipChainContext,
  chain: ChainSpec,
  read: (from: number, to: number) => Promise<PlanarBlock>,
  channels: number,
): Promise<NoiseProfile | undefined> {
  if (noise === null || !clipNeedsProfile(chain)) return undefined;
  if (!Array.isArray(noise)) return noise as NoiseProfile;
  const spans = noise as readonly NoisePassageSpan[];
  if (spans.length === 0) return undefined;
  const known = taken.get(spans) ?? new Map<string, Promise<NoiseProfile>>();
  taken.set(spans, known);
  const key = JSON.stringify(chainBeforeProfile(chain).treatments);
  const found = known.get(key);
  if (found) return found;
  const made = profilePassages({ kernels, sampleRateHz, channels }, withoutDeep(chain), spans, read);
  known.set(key, made);
  made.catch(() => known.delete(key));
  return made;
}

/**
 * A span of a recording through the chain of a clip, each time from a little before: the same span is always the same
 * sound. `read` gives any span, silence outside of the recording. Without a noise that is known what needs one is left out.
 */
export async function readThroughChain(
  context: ClipChainContext,
  chain: ChainSpec,
  read: (from: number, to: number) => Promise<PlanarBlock>,
  from: number,
  to: number,
): Promise<PlanarBlock> {
  const { kernels, sampleRateHz } = context;
  const lead = Math.max(0, from - LEAD_FRAMES);
  const start = lead - (lead % GRID_FRAMES);
  const samples = await read(start, to + BEYOND_FRAMES);
  const noiseProfile = await clipProfile(context, chain, read, samples.length);
  const treated = runThrough(
    { kernels, sampleRateHz, channels: samples.length, startFrame: start, noiseProfile },
    withoutDeep(chain),
    samples,
  );
  return treated.map((channel) => channel.subarray(from - start, to - start));
}
