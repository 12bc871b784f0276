import { rm } from 'node:fs/promises';
import {
  makeRoomTone,
  needsProfile,
  profileFromFile,
  withoutDeep,
  type KernelModule,
  type NoiseProfile,
  type PlanarBlock,
} from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import {
  arrangedFrames,
  checkSheet,
  Levels,
  mixChannels,
  noisePlan,
  NO_EDGES,
  placedProfile,
  placedChain,
  PLAIN_FILE,
  profilePassages,
  reelChannels,
  reelFrames,
  type FileSpec,
} from '@euphonos/engine';
import {
  measureFinished,
  mixTracks,
  putIntoPicture,
  ReadAhead,
  readArrangedFiles,
  readReelSpan,
  renderFile,
  renderSound,
  takeCover,
  withSilence,
  type FileExtras,
  type FileResult,
  type MixPart,
} from '@euphonos/media';
import type { MediaStore } from '../media-store/media-store.js';
import { mixOf, oneTrack } from './kept-parts.js';
import { openStore } from '../media-store/open-store.js';
import type { RenderDone, RenderTask, TrackTask } from './protocol.js';

const MOST_CHART_POINTS = 600;

/** Every n-th value, so that a chart gets no more than it can show. Silence becomes -100, as JSON has no infinity. */
function thinned(values: readonly number[], step: number): number[] {
  return values.filter((_, i) => i % step === 0).map((value) => Math.max(-100, Math.round(value * 10) / 10));
}

async function profileOf(
  { track, profile, reel }: TrackTask,
  sampleRateHz: number,
  kernels: KernelModule,
): Promise<NoiseProfile | undefined> {
  const channels = reelChannels(track.reel);
  if (profile) return profileFromFile(profile, sampleRateHz, channels);
  const spans = noisePlan(track);
  if (spans.length === 0) return undefined;
  await readyFor(track.chain);
  return profilePassages({ sampleRateHz, channels, kernels }, track.chain, spans, (start, end) =>
    readReelSpan(reel, start, Math.min(end, reelFrames(track.reel))),
  );
}

/** Room tone from its passage. */
async function toneOf({ track: { roomTone }, reel }: TrackTask, sampleRateHz: number): Promise<PlanarBlock | null> {
  if (!roomTone) return null;
  return makeRoomTone(await readReelSpan(reel, roomTone.startFrame, roomTone.endFrame), sampleRateHz);
}

/** A track as it goes into a render: its sound, its chain at the places of its clips, their levels. */
async function partOf(task: TrackTask, sampleRateHz: number, kernels: KernelModule): Promise<MixPart & { readonly frames: number }> {
  const { track, reel } = task;
  const { clips, gainDb, pan } = track;
  const recordingFrames = reelFrames(track.reel);
  const profile = await profileOf(task, sampleRateHz, kernels);
  const arrangement = {
    clips,
    recordingFrames,
    sampleRateHz,
    tone: await toneOf(task, sampleRateHz),
    kernels,
    noise: task.profile ? (profile ?? null) : noisePlan(track),
  };
  return {
    source: (startFrame) => readArrangedFiles(reel, arrangement, startFrame),
    frames: arrangedFrames(arrangement),
    context: { sampleRateHz, channels: reelChannels(track.reel), kernels, noiseProfile: profile && placedProfile(profile, clips) },
    chain: placedChain(track.chain, clips, sampleRateHz),
    levels: Levels.of(clips, recordingFrames, sampleRateHz),
    gainDb,
    pan,
  };
}

/** The noise of the whole: of the sum of all tracks, which is made once more for it, up to the last passage. */
async function profileOfWhole(
  { tracks, whole, wholeNoise, sampleRateHz }: RenderTask,
  channels: number,
  kernels: KernelModule,
  signal: AbortSignal,
): Promise<NoiseProfile | undefined> {
  const weighs = whole.treatments.some((settings) => !settings.bypassed && needsProfile(settings));
  if (!weighs || wholeNoise.length === 0) return undefined;
  const parts = await Promise.all(tracks.map((one) => partOf(one, sampleRateHz, kernels)));
  const mix = new ReadAhead(mixTracks(parts, channels), channels, sampleRateHz, signal);
  try {
    return await profilePassages({ sampleRateHz, channels, kernels }, withoutDeep(whole), wholeNoise, (start, end) => mix.read(start, end));
  } finally {
    await mix.close();
  }
}

interface StemRun {
  readonly extras: FileExtras;
  readonly kernels: KernelModule;
  readonly sampleRateHz: number;
  readonly signal: AbortSignal;
  readonly progress: (share: number) => void;
}

/** A stem: a track as it is in the mix before the chain on the whole, as long and as wide as that, in 32-bit float so that nothing clips. */
async function renderStem(
  { channels, frames, file }: NonNullable<RenderTask['stem']>,
  parts: readonly MixPart[],
  outPath: string,
  store: MediaStore,
  { kernels, sampleRateHz, signal, progress, extras }: StemRun,
): Promise<RenderDone> {
  const request = {
    source: withSilence(mixTracks(parts, channels), channels, frames),
    context: { sampleRateHz, channels, kernels },
    chain: { treatments: [] },
    expectedFrames: frames,
    output: 'result' as const,
    target: null,
    outPath,
    report: false,
    onProgress: progress,
    signal,
  };
  if (file) await renderFile({ ...request, file, extras });
  else await renderSound({ ...request, format: 'float32' });
  return { fileSha: (await store.adopt(outPath)).sha, report: null };
}

/** What goes into a picture is rounded by the container's own codec. */
const IN_PICTURE: FileSpec = { ...PLAIN_FILE, bits: '32f' };

/** The picture that goes along; taken out of its file first, where it is the cover of one. */
async function coverFor(cover: RenderTask['cover'], coverPath: string): Promise<{ readonly coverPath?: string }> {
  if (!cover) return {};
  if (cover.isPicture) return { coverPath: cover.path };
  return (await takeCover(cover.path, coverPath)) ? { coverPath } : {};
}

/** Puts a rendered sound into its picture; what is told is measured of the finished file. */
async function intoPicture(
  { originalPath, ending, keepOthers }: NonNullable<RenderTask['picture']>,
  soundPath: string,
  outPath: string,
  rendered: FileResult,
  { kernels, signal }: { readonly kernels: KernelModule; readonly signal: AbortSignal },
): Promise<FileResult> {
  try {
    await putIntoPicture(originalPath, soundPath, outPath, { ending, keepOthers, signal });
    const { figures, facts, loudness } = await measureFinished(outPath, rendered.frames, kernels);
    return { ...rendered, after: figures, facts, loudnessAfter: loudness };
  } catch (error) {
    await rm(outPath, { force: true });
    throw error;
  } finally {
    await rm(soundPath, { force: true });
  }
}

/** Renders one track, or the mix of several, to the target and into its file, in the store. Always the result, whatever is being listened to. */
export async function renderTracks(
  task: RenderTask,
  kernels: KernelModule,
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<RenderDone> {
  const store = await openStore(task.store);
  // Parts that were made lie in it until the end.
  return store.holding(() => renderInStore(task, store, kernels, signal, progress));
}

async function renderInStore(
  task: RenderTask,
  store: MediaStore,
  kernels: KernelModule,
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<RenderDone> {
  const { tracks, whole, target, sampleRateHz } = task;
  const parts = await Promise.all(tracks.map((one) => partOf(one, sampleRateHz, kernels)));
  const outPath = await store.workPath();
  const [only] = parts;
  if (task.stem) return renderStem(task.stem, parts, outPath, store, { kernels, sampleRateHz, signal, progress, extras: task.extras });
  const channels = mixChannels(tracks.map(({ track }) => track));
  const mixes = parts.length > 1 || only!.gainDb !== 0 || only!.pan !== 0 || whole.treatments.some(({ bypassed }) => !bypassed);
  const noiseProfile = await profileOfWhole(task, channels, kernels, signal);
  const context = { sampleRateHz, channels, kernels, ...(noiseProfile && { noiseProfile }) };
  const file = task.picture ? IN_PICTURE : target.file;
  const soundPath = task.picture ? await store.workPath() : outPath;
  const edges = task.picture ? NO_EDGES : target;
  const coverPath = `${outPath}.cover`;
  const cover = task.picture ? {} : await coverFor(task.cover, coverPath);
  const sound = mixes
    ? { ...(await mixOf(task, { tracks: parts, context, chain: withoutDeep(whole) }, store, signal)), context, chain: withoutDeep(whole) }
    : { ...only!, ...(await oneTrack(task, only!, store, signal)) };
  const rendered = await renderFile({
    ...sound,
    expectedFrames: Math.max(...parts.map(({ frames }) => frames)),
    output: 'result',
    target,
    file,
    extras: task.picture ? {} : { ...task.extras, ...cover },
    edges,
    outPath: soundPath,
    report: true,
    onProgress: progress,
    signal,
  }).finally(() => rm(coverPath, { force: true }));
  const result = task.picture ? await intoPicture(task.picture, soundPath, outPath, rendered, { kernels, signal }) : rendered;
  const step = Math.max(1, Math.ceil(result.loudnessBefore.length / MOST_CHART_POINTS));
  return {
    fileSha: (await store.adopt(outPath)).sha,
    report: {
      lines: checkSheet(result.before!, result.after!, target, {
        work: result.work,
        file: { ...result.facts, asked: task.picture ? null : target.file, edges },
        bed: tracks.some(({ track }) => track.role === 'bed'),
      }),
      work: result.work,
      before: result.before!,
      after: result.after!,
      loudnessBefore: thinned(result.loudnessBefore, step),
      loudnessAfter: thinned(result.loudnessAfter, step),
      loudnessStepSeconds: step * 0.1,
    },
  };
}
