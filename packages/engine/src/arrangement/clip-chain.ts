import { withoutDeep, type ChainSpec, type KernelModule, type PlanarBlock } from '@euphonos/dsp';
import { GRID_FRAMES } from '../monitor/memories.js';
import { runThrough } from '../offline/run-through.js';

/** A chain hears this much before what is asked for, so that it has settled. */
const LEAD_FRAMES = 24 * GRID_FRAMES;
/** And this much after it, for what looks ahead. */
const BEYOND_FRAMES = 8192;

/** What the chain of a clip needs to be run. */
export interface ClipChainContext {
  readonly kernels: KernelModule;
  readonly sampleRateHz: number;
}

/**
 * A span of a recording through the chain of a clip, each time from a little before: the same span is always the same
 * sound. `read` gives any span, silence outside of the recording. Without a noise profile: what needs one is left out.
 */
export async function readThroughChain(
  { kernels, sampleRateHz }: ClipChainContext,
  chain: ChainSpec,
  read: (from: number, to: number) => Promise<PlanarBlock>,
  from: number,
  to: number,
): Promise<PlanarBlock> {
  const lead = Math.max(0, from - LEAD_FRAMES);
  const start = lead - (lead % GRID_FRAMES);
  const samples = await read(start, to + BEYOND_FRAMES);
  const treated = runThrough({ kernels, sampleRateHz, channels: samples.length, startFrame: start }, withoutDeep(chain), samples);
  return treated.map((channel) => channel.subarray(from - start, to - start));
}
