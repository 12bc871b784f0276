import {
  dbToGain,
  SoundMeasure,
  TruePeakLimiter,
  type ChainSpec,
  type PlanarBlock,
  type ProcessorContext,
  type SoundFigures,
} from '@euphonos/dsp';
import { AlignedRun, type DeliveryTarget, type Levels, type LevelWork, type Parting } from '@euphonos/engine';
import { WavEncoder, type WavFormat } from './encode.js';
import { MediaError } from './errors.js';
import { Gatherer } from './gatherer.js';
import type { RawWriter } from './raw-file.js';
import type { SoundBlock } from './sound-block.js';

/** A level to reach: a loudness, or the middle of a window of the RMS level; and a ceiling. */
export type LevelTarget = Pick<DeliveryTarget, 'integratedLufs' | 'ceilingDbtp'> &
  Partial<Pick<DeliveryTarget, 'rmsDbfs' | 'samplePeakDbfs'>>;

/** A block may bring along what it was made of: that is what is measured as the source. */
export type Heard = AsyncIterable<SoundBlock & { readonly source?: PlanarBlock }>;

/** How a long render is kept on its way, so that it can be gone on with. */
export interface KeptParts {
  /** Of the chain that the request runs through. */
  readonly parting: Parting;
  /** Where the parts lie that are there already: as many as come before `parting.goOn`. */
  readonly paths: readonly string[];
  /** What the chain hears, from a frame on. */
  heardFrom(frame: number): Heard;
  /** What all of that is made of, from the beginning, for measures alone. */
  source(): Heard;
  /** Takes over the file of a part. @returns where it is read from then on */
  keep(part: number, path: string): Promise<string>;
}

export interface RenderRequest {
  readonly source: Heard;
  /** Left out, nothing is kept on the way. */
  readonly parts?: KeptParts | undefined;
  /** Expected length, for the progress only. */
  readonly expectedFrames: number;
  readonly context: ProcessorContext;
  readonly chain: ChainSpec;
  /** What clips do to the level of what the chain makes, from the first frame on. */
  readonly levels?: Levels;
  /** `source` is what the result is compared with: source = removed + result. */
  readonly output: 'result' | 'removed' | 'source';
  /** Level to reach; null leaves the level as the chain made it. */
  readonly target: LevelTarget | null;
  readonly format: WavFormat;
  /** Noise before rounding, where bits are lost; left out, yes. */
  readonly dither?: boolean;
  readonly outPath: string;
  /** Also measure what goes in and what comes out, for a check sheet. */
  readonly report: boolean;
  readonly onProgress?: (share: number) => void;
  readonly signal?: AbortSignal | undefined;
}

export interface RenderResult {
  readonly frames: number;
  readonly before: SoundFigures | null;
  /** Of the file written; null without a report, or without a target. */
  readonly after: SoundFigures | null;
  readonly work: LevelWork;
  /** Short-term loudness every 100 ms from 3 s on, before and after. */
  readonly loudnessBefore: readonly number[];
  readonly loudnessAfter: readonly number[];
}

export const NO_WORK: LevelWork = { gainDb: 0, limitedDb: 0, limitedSeconds: 0 };

export type Write = (block: SoundBlock) => Promise<void>;

export function requireGoing({ signal }: RenderRequest): void {
  if (signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
}

async function limited(
  request: RenderRequest,
  work: RawWriter,
  limiter: TruePeakLimiter,
  take: (out: readonly Float32Array[], frames: number) => void | Promise<void>,
) {
  const ready = new Gatherer(request.context.channels);
  const run = new AlignedRun(limiter, request.context.channels, (out, _, frames) => ready.add(out, frames));
  for await (const block of work.read(request.context.channels)) {
    requireGoing(request);
    run.push(block.channels, block.frames);
    await ready.handOn(({ channels, frames }) => take(channels, frames));
  }
  run.finish();
  await ready.handOn(({ channels, frames }) => take(channels, frames), true);
}

/** Gain, the limiter when there is a ceiling, measures and the file. */
export async function writeAtLevel(request: RenderRequest, work: RawWriter, partPath: string, gainDb: number, ceilingDbtp: number | null) {
  const { context, format } = request;
  const measure = request.report ? new SoundMeasure(context.kernels, context.sampleRateHz, context.channels) : null;
  const encoder = new WavEncoder(context.kernels, partPath, context.sampleRateHz, context.channels, format, request.dither);
  const limiter = ceilingDbtp === null ? null : new TruePeakLimiter(context, { gainDb, ceilingDbtp });
  const write = (channels: readonly Float32Array[], frames: number): Promise<void> => {
    measure?.process(channels, frames);
    return encoder.write({ channels, frames });
  };
  try {
    if (limiter) await limited(request, work, limiter, write);
    else
      for await (const { channels, frames } of work.read(context.channels)) {
        requireGoing(request);
        const gain = dbToGain(gainDb);
        for (const samples of channels) for (let n = 0; n < frames; n++) samples[n]! *= gain;
        await write(channels, frames);
      }
    await encoder.finish();
  } finally {
    encoder.abort();
  }
  return {
    after: measure?.finish() ?? null,
    loudness: measure?.loudness.shortTermHistoryLufs ?? [],
    limitedDb: limiter?.mostReductionDb ?? 0,
    limitedSeconds: (limiter?.limitedFrames ?? 0) / context.sampleRateHz,
  };
}
