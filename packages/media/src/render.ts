import { rm, rename } from 'node:fs/promises';
import {
  dbToGain,
  gainToDb,
  SoundMeasure,
  TruePeakLimiter,
  treatmentOf,
  type ChainSpec,
  type PlanarBlock,
  type ProcessorContext,
  type SoundFigures,
} from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import { AlignedRun, chainRun, comparedRun, type DeliveryTarget, type Levels, type LevelWork } from '@euphonos/engine';
import type { SoundBlock } from './sound-block.js';
import { WavEncoder, type WavFormat } from './encode.js';
import { asMediaError, MediaError } from './errors.js';
import { Gatherer } from './gatherer.js';
import { findGain } from './limited-level.js';
import { RawWriter } from './raw-file.js';
import { LevelOfWork } from './work-level.js';

export interface RenderRequest {
  /** A block may bring along what it was made of: that is what is measured as the source. */
  readonly source: AsyncIterable<SoundBlock & { readonly source?: PlanarBlock }>;
  /** Expected length, for the progress only. */
  readonly expectedFrames: number;
  readonly context: ProcessorContext;
  readonly chain: ChainSpec;
  /** What clips do to the level of what the chain makes, from the first frame on. */
  readonly levels?: Levels;
  /** `source` is what the result is compared with: source = removed + result. */
  readonly output: 'result' | 'removed' | 'source';
  /** Level to reach; null leaves the level as the chain made it. */
  readonly target: Pick<DeliveryTarget, 'integratedLufs' | 'ceilingDbtp'> | null;
  readonly format: WavFormat;
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

const NO_WORK: LevelWork = { gainDb: 0, limitedDb: 0, limitedSeconds: 0 };

/**
 * Renders a stream through a chain to a WAV file of exactly its length. With a target: one pass through the
 * chain to a work file while measuring, then gain and, only when a peak would pass the ceiling, the limiter;
 * with a gain corrected for what limiting takes. The file appears only when it is complete.
 * @throws {MediaError} `disk-full`, `encode-failed`, `cancelled` …
 */
export async function renderSound(request: RenderRequest): Promise<RenderResult> {
  const workPath = `${request.outPath}.work`;
  const partPath = `${request.outPath}.part`;
  try {
    await readyFor(request.chain);
    const result = await (request.target
      ? renderToTarget(request, request.target, workPath, partPath)
      : renderPlain(request, workPath, partPath));
    await rename(partPath, request.outPath);
    return result;
  } catch (error) {
    throw asMediaError(error);
  } finally {
    await rm(workPath, { force: true });
    await rm(partPath, { force: true });
  }
}

type Write = (block: SoundBlock) => Promise<void>;

function requireGoing({ signal }: RenderRequest): void {
  if (signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
}

/** The pass through the chain. Blocks are handed on in order; returns the frames and, if asked, the source's measures. */
async function runChain(
  request: RenderRequest,
  write: Write,
  progressShare: number,
): Promise<{ frames: number; before: SoundMeasure | null }> {
  const { context, chain, output } = request;
  const before = request.report ? new SoundMeasure(context.kernels, context.sampleRateHz, context.channels) : null;
  const ready = new Gatherer(context.channels);
  let done = 0;
  const run = (output === 'result' ? chainRun : comparedRun)(context, chain, (processed, source, frames) => {
    request.levels?.apply(processed, 0, done, frames);
    done += frames;
    if (output === 'removed') ready.add(source, frames, processed);
    else if (output === 'source') ready.add(source, frames);
    else ready.add(processed, frames);
  });
  let frames = 0;
  for await (const block of request.source) {
    requireGoing(request);
    before?.process(block.source ?? block.channels, block.frames);
    run.push(block.channels, block.frames);
    frames += block.frames;
    await ready.handOn(write);
    request.onProgress?.(Math.min(1, frames / Math.max(1, request.expectedFrames)) * progressShare);
  }
  run.finish();
  await ready.handOn(write, true);
  return { frames, before };
}

/** Room left under full scale when a whole render is lowered, so that it does not clip. */
const ROOM_DB = 0.1;

/** Whether the chain can come out louder than full scale by design, and the format cannot hold that. */
const mustNotClip = ({ chain, format, output }: RenderRequest): boolean =>
  format !== 'float32' &&
  output === 'result' &&
  chain.treatments.some(({ kind, bypassed }) => !bypassed && treatmentOf(kind).mayRaise === true);

/** First to a work file, with its highest sample; then lowered as a whole if that would clip. */
async function renderLowered(request: RenderRequest, workPath: string, partPath: string): Promise<RenderResult> {
  const work = new RawWriter(workPath);
  let peak = 0;
  const { frames, before } = await runChain(
    request,
    async (block) => {
      for (const samples of block.channels) for (let n = 0; n < block.frames; n++) peak = Math.max(peak, Math.abs(samples[n]!));
      await work.write(block);
    },
    0.8,
  ).finally(() => work.finish());
  const gainDb = peak > 1 ? -gainToDb(peak) - ROOM_DB : 0;
  await writeAtLevel(request, work, partPath, gainDb, null);
  request.onProgress?.(1);
  return { frames, before: before?.finish() ?? null, after: null, work: { ...NO_WORK, gainDb }, loudnessBefore: [], loudnessAfter: [] };
}

async function renderPlain(request: RenderRequest, workPath: string, partPath: string): Promise<RenderResult> {
  if (mustNotClip(request)) return renderLowered(request, workPath, partPath);
  const { context, format } = request;
  const encoder = new WavEncoder(context.kernels, partPath, context.sampleRateHz, context.channels, format);
  try {
    const { frames, before } = await runChain(request, (block) => encoder.write(block), 1);
    await encoder.finish();
    return { frames, before: before?.finish() ?? null, after: null, work: NO_WORK, loudnessBefore: [], loudnessAfter: [] };
  } finally {
    encoder.abort();
  }
}

async function renderToTarget(
  request: RenderRequest,
  target: NonNullable<RenderRequest['target']>,
  workPath: string,
  partPath: string,
): Promise<RenderResult> {
  const { context } = request;
  const treated = new LevelOfWork(context);
  const work = new RawWriter(workPath);
  const { frames, before } = await runChain(
    request,
    async (block) => {
      treated.process(block.channels, block.frames);
      await work.write(block);
    },
    0.8,
  ).finally(() => work.finish());
  const { gainDb, ceilingDbtp } = await findGain({ context, raw: work, level: treated.finish() }, target, () => requireGoing(request));
  const written = await writeAtLevel(request, work, partPath, gainDb, ceilingDbtp);
  request.onProgress?.(1);
  return {
    frames,
    before: before?.finish() ?? null,
    after: written.after,
    work: { gainDb, limitedDb: written.limitedDb, limitedSeconds: written.limitedSeconds },
    loudnessBefore: before?.loudness.shortTermHistoryLufs ?? [],
    loudnessAfter: written.loudness,
  };
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
async function writeAtLevel(request: RenderRequest, work: RawWriter, partPath: string, gainDb: number, ceilingDbtp: number | null) {
  const { context, format } = request;
  const measure = request.report ? new SoundMeasure(context.kernels, context.sampleRateHz, context.channels) : null;
  const encoder = new WavEncoder(context.kernels, partPath, context.sampleRateHz, context.channels, format);
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

/** Measures a stream. */
export async function measureSound(source: AsyncIterable<SoundBlock>, measure: SoundMeasure): Promise<SoundFigures> {
  for await (const { channels, frames } of source) measure.process(channels, frames);
  return measure.finish();
}
