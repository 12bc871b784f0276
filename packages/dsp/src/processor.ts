import type { KernelModule } from './kernels/instance.js';
import type { Memory } from './memory.js';
import type { NoiseProfile } from './noise/noise-profile.js';

/** One Float32Array a channel, all of the same length. Full scale is ±1. */
export type PlanarBlock = readonly Float32Array[];

/** The longest block that a processor is given at once. Longer ones are cut by the caller. */
export const MAX_BLOCK_FRAMES = 4096;

/** A processor that has heard so much has settled, but for what it remembers for longer (`remember`). */
export const LEAD_SECONDS = 0.4;

/**
 * One stage of sound processing. Order of calls: process* flush, then reset before the next stream.
 * Allocates nothing after construction; any split into blocks gives the same samples.
 */
export interface Processor {
  /** Input-to-output delay in frames. Fixed once created. */
  readonly latencyFrames: number;
  /**
   * Reads and writes `frames` frames (1 … MAX_BLOCK_FRAMES) of every channel. Input and output may be the
   * same arrays. Keeps no reference to either.
   */
  process(input: PlanarBlock, output: PlanarBlock, frames: number): void;
  /** The next frame that comes in is this one of the recording. Only for what holds times of it; without a call it counts on. */
  locate?(frame: number): void;
  /** After a reset: the stream goes on at this frame, counted from its beginning. Only for what works in blocks counted from there. */
  goOnAt?(frame: number): void;
  /**
   * Only for what remembers more than the last LEAD_SECONDS: that, written or read. What it heard lately is not among it: whoever
   * reads has let it hear so much before. Called between blocks, at multiples of 2048 frames of the stream.
   */
  remember?(memory: Memory): void;
  /** Back to the state just after creation; keeps its buffers and its parameters. */
  reset(): void;
}

/** One thing that a treatment mended: [startFrame, endFrame) of the recording, and by how much. */
export interface TreatmentEvent {
  readonly kind: string;
  readonly channel: number;
  readonly startFrame: number;
  readonly endFrame: number;
  /** Largest change, in dB of the recording's full scale (clicks) or of reduction (bursts, sibilance). */
  readonly amountDb: number;
  /** RMS level that it reached, where that is known. */
  readonly levelDbfs?: number;
}

/** What every processor is built for. */
export interface ProcessorContext {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly kernels: KernelModule;
  /** One profile a channel, when the recording has one. */
  readonly noiseProfile?: NoiseProfile | undefined;
  /** Frame of the recording that comes first; 0 when it is not said. What holds times of the recording counts from it. */
  readonly startFrame?: number;
  /** Told of every single thing that is mended (a click, a flat top, a burst), in frames of the recording. */
  readonly onEvent?: ((event: TreatmentEvent) => void) | undefined;
}

/** Allocates a block of silence. */
export const createBlock = (channels: number, frames: number): Float32Array[] =>
  Array.from({ length: channels }, () => new Float32Array(frames));
