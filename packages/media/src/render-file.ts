import { rename, rm } from 'node:fs/promises';
import { gainToDb, type SoundFigures } from '@euphonos/dsp';
import { ceilingOf, edgeSeconds, isLossy, NO_EDGES, rateOf, type Edges, type FileFacts, type FileSpec } from '@euphonos/engine';
import { movedTags } from './broadcast.js';
import { readyFor } from '@euphonos/second-opinion';
import { runChain } from './chain-pass.js';
import { converted } from './converted.js';
import { edgeFrames, withEdges } from './edges.js';
import { asMediaError } from './errors.js';
import { measureFinished } from './finished-file.js';
import type { FileExtras } from './file-tags.js';
import { wavFormatFor, writeFileFrom } from './file-writer.js';
import { Gatherer } from './gatherer.js';
import { findGain } from './limited-level.js';
import { RawWriter } from './raw-file.js';
import { NO_WORK, requireGoing, writeAtLevel, type LevelTarget, type RenderRequest, type RenderResult } from './render-passes.js';
import { mustNotClip, ROOM_DB } from './render.js';
import type { SoundBlock } from './sound-block.js';
import { LevelOfWork } from './work-level.js';

export interface FileRequest extends Omit<RenderRequest, 'format' | 'dither'> {
  readonly file: FileSpec;
  /** In the times of the sound: what is put before it moves them. */
  readonly extras?: FileExtras;
  /** What is put before and behind the sound; left out, nothing. */
  readonly edges?: Edges;
}

export interface FileResult extends RenderResult {
  /** What the finished file says of itself. */
  readonly facts: FileFacts;
}

/** Coding with loss moves peaks, and costs some loudness: what comes out so far over the ceiling, or off the level, is made again. */
const CODED_OVER_DB = 0.05;
const CODED_OFF_DB = 0.07;
const MOST_TRIES = 4;

/**
 * Renders a stream through a chain into a file as it is asked for: rate, channels, depth or bit rate, tags. The level is found at the
 * rate of the file, and of what coding with loss makes of it: `after` is measured of the finished file, decoded again.
 * @throws {MediaError} `disk-full`, `encode-failed`, `ffmpeg-missing`, `cancelled` …
 */
export async function renderFile(request: FileRequest): Promise<FileResult> {
  const paths = [`${request.outPath}.work`, `${request.outPath}.rate`, `${request.outPath}.part`, `${request.outPath}.done`] as const;
  try {
    await readyFor(request.chain);
    const result = await render(request, paths);
    await rename(paths[3], request.outPath);
    request.onProgress?.(1);
    return result;
  } catch (error) {
    throw asMediaError(error);
  } finally {
    for (const path of paths) await rm(path, { force: true });
  }
}

async function render(
  request: FileRequest,
  [workPath, ratePath, partPath, donePath]: readonly [string, string, string, string],
): Promise<FileResult> {
  const { file, target, edges = NO_EDGES } = request;
  const plain: RenderRequest = { ...request, format: wavFormatFor(file), dither: file.dither };
  const { context } = request;
  const shape = { sampleRateHz: rateOf(file, context.sampleRateHz), channels: file.channels ?? context.channels };
  const asIs = shape.sampleRateHz === context.sampleRateHz && shape.channels === context.channels && edgeSeconds(edges) === 0;
  const fileContext = { ...context, ...shape };
  let level = new LevelOfWork(fileContext);
  let peak = 0;
  let work = new RawWriter(workPath);
  const measured = ({ channels, frames }: Pick<SoundBlock, 'channels' | 'frames'>): void => {
    level.process(channels, frames);
    for (const samples of channels) for (let n = 0; n < frames; n++) peak = Math.max(peak, Math.abs(samples[n]!));
  };
  const take = async (into: RawWriter, block: SoundBlock): Promise<void> => {
    measured(block);
    await into.write(block);
  };
  const { parts } = request;
  for (const path of parts?.paths ?? []) work.follow(path, parts!.parting.partFrames);
  if (asIs && parts && parts.paths.length > 0)
    for await (const block of work.read(context.channels)) {
      requireGoing(plain);
      measured(block);
    }
  const made = await runChain(
    plain,
    (block) => (asIs ? take(work, block) : work.write(block)),
    asIs ? 0.7 : 0.6,
    parts && ((count) => work.cut((path) => parts.keep(count, path))),
  ).finally(() => work.finish());
  const [headFrames, tailFrames] = [edgeFrames(edges.head, context.sampleRateHz), edgeFrames(edges.tail, context.sampleRateHz)];
  const edged = made.frames + headFrames + tailFrames;
  const frames = Math.round((edged * shape.sampleRateHz) / context.sampleRateHz);
  if (!asIs) {
    const from = work;
    work = new RawWriter(ratePath);
    level = new LevelOfWork(fileContext);
    const sound = edged === made.frames ? from.read(context.channels) : withEdges(from, made.frames, edges, context);
    const blocks = converted(sound, edged, context, shape, request.signal);
    // In blocks of a length of their own, whatever a pipe hands over at once: sums are rounded alike then.
    const ready = new Gatherer(shape.channels);
    try {
      for await (const { channels, frames } of blocks) {
        ready.add(channels, frames);
        await ready.handOn((block) => take(work, block));
      }
      await ready.handOn((block) => take(work, block), true);
    } finally {
      await work.finish();
    }
    request.onProgress?.(0.7);
  }
  const known = level.finish();
  const extras = moved(request.extras, edges, shape.sampleRateHz);
  const writing: RenderRequest = { ...plain, context: fileContext, report: false };
  // Without a level to reach, what would clip is lowered as a whole.
  const lowerDb = !target && mustNotClip(plain) && peak > 1 ? -gainToDb(peak) - ROOM_DB : 0;
  const top = target ? ceilingOf(target) : 0;
  let ceilingDbtp = top;
  let moreDb = 0;
  for (let attempt = 1; ; attempt++) {
    const found = target
      ? await findGain(
          { context: fileContext, raw: work, level: known },
          raised({ ...target, ceilingDbtp, samplePeakDbfs: null }, moreDb),
          () => requireGoing(plain),
        )
      : { gainDb: lowerDb, ceilingDbtp: null };
    const written = await writeAtLevel(writing, work, partPath, found.gainDb, found.ceilingDbtp);
    await writeFileFrom(partPath, donePath, file, shape, extras, request.signal);
    requireGoing(plain);
    const finished = await measureFinished(donePath, frames, context.kernels, edges);
    if (target && isLossy(file) && attempt < MOST_TRIES) {
      const over = (finished.figures.truePeakDbtp ?? -Infinity) - top;
      const missing = missingDb(finished.figures, target);
      if (over > CODED_OVER_DB) ceilingDbtp -= over + CODED_OVER_DB;
      moreDb += missing;
      if (over > CODED_OVER_DB || Math.abs(missing) > CODED_OFF_DB) continue;
    }
    return {
      frames,
      before: made.before?.finish() ?? null,
      after: finished.figures,
      work: { ...NO_WORK, gainDb: found.gainDb, limitedDb: written.limitedDb, limitedSeconds: written.limitedSeconds },
      loudnessBefore: made.before?.loudness.shortTermHistoryLufs ?? [],
      loudnessAfter: finished.loudness,
      facts: finished.facts,
    };
  }
}

/** What is said of times, behind what is put before the sound. */
function moved(extras: FileExtras = {}, { head }: Edges, sampleRateHz: number): FileExtras {
  if (!head) return extras;
  const { chapters, broadcast, cues } = extras;
  return {
    ...extras,
    ...(chapters && {
      chapters: chapters.map((chapter) => ({
        ...chapter,
        startSeconds: chapter.startSeconds + head.seconds,
        endSeconds: chapter.endSeconds + head.seconds,
      })),
    }),
    ...(cues && { cues: cues.map((cue) => ({ ...cue, atSeconds: cue.atSeconds + head.seconds })) }),
    ...(broadcast && { broadcast: movedTags(broadcast, -edgeFrames(head, sampleRateHz), sampleRateHz, sampleRateHz) }),
  };
}

/** A level so many decibels higher. */
const raised = (target: LevelTarget, db: number): LevelTarget => ({
  ...target,
  integratedLufs: target.integratedLufs === null ? null : target.integratedLufs + db,
  rmsDbfs: target.rmsDbfs ? [target.rmsDbfs[0] + db, target.rmsDbfs[1] + db] : null,
});

/** By how much a file is softer than what it was to reach. */
function missingDb({ integratedLufs, rmsDbfs }: SoundFigures, target: LevelTarget): number {
  if (target.integratedLufs !== null) return integratedLufs === null ? 0 : target.integratedLufs - integratedLufs;
  return !target.rmsDbfs || rmsDbfs === null ? 0 : (target.rmsDbfs[0] + target.rmsDbfs[1]) / 2 - rmsDbfs;
}
