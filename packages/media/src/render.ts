import { rm, rename } from 'node:fs/promises';
import { gainToDb, treatmentOf, type SoundFigures, type SoundMeasure } from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import type { SoundBlock } from './sound-block.js';
import { runChain } from './chain-pass.js';
import { WavEncoder } from './encode.js';
import { asMediaError } from './errors.js';
import { findGain } from './limited-level.js';
import { RawWriter } from './raw-file.js';
import { NO_WORK, requireGoing, writeAtLevel, type RenderRequest, type RenderResult } from './render-passes.js';
import { LevelOfWork } from './work-level.js';

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

/** Room left under full scale when a whole render is lowered, so that it does not clip. */
export const ROOM_DB = 0.1;

/** Whether the chain can come out louder than full scale by design, and the format cannot hold that. */
export const mustNotClip = ({ chain, format, output }: RenderRequest): boolean =>
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
  const encoder = new WavEncoder(context.kernels, partPath, context.sampleRateHz, context.channels, format, request.dither);
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

/** Measures a stream. */
export async function measureSound(source: AsyncIterable<SoundBlock>, measure: SoundMeasure): Promise<SoundFigures> {
  for await (const { channels, frames } of source) measure.process(channels, frames);
  return measure.finish();
}
