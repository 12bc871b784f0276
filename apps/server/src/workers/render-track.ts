import { makeRoomTone, profileFromFile, type KernelModule, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import { arrangedFrames, checkSheet, Levels, noiseSpans, placedChain, profilePassages, spanFrames } from '@euphonos/engine';
import { collectSpan, readArrangedFiles, readChannelFiles, renderSound } from '@euphonos/media';
import { DirectoryStore } from '../media-store/media-store.js';
import type { RenderDone, RenderTask } from './protocol.js';

const MOST_CHART_POINTS = 600;

/** Every n-th value, so that a chart gets no more than it can show. Silence becomes -100, as JSON has no infinity. */
function thinned(values: readonly number[], step: number): number[] {
  return values.filter((_, i) => i % step === 0).map((value) => Math.max(-100, Math.round(value * 10) / 10));
}

async function profileOf({ track, profile, channelPaths, sampleRateHz }: RenderTask, kernels: KernelModule): Promise<NoiseProfile | undefined> {
  const channels = channelPaths.length;
  if (profile) return profileFromFile(profile, sampleRateHz, channels);
  const spans = noiseSpans(track);
  if (spans.length === 0) return undefined;
  return profilePassages({ sampleRateHz, channels, kernels }, track.chain, spans, (start, end) => collectSpan(readChannelFiles(channelPaths, start, end), 0, end - start));
}

/** Room tone from its passage. */
async function toneOf({ track: { roomTone }, channelPaths, sampleRateHz }: RenderTask): Promise<PlanarBlock | null> {
  if (!roomTone) return null;
  return makeRoomTone(await collectSpan(readChannelFiles(channelPaths, roomTone.startFrame, roomTone.endFrame), 0, spanFrames(roomTone)), sampleRateHz);
}

/** Renders a track to the target as a 24-bit WAV in the store. Always the result, whatever is being listened to. */
export async function renderTrack(task: RenderTask, kernels: KernelModule, signal: AbortSignal, progress: (share: number) => void): Promise<RenderDone> {
  const { track, target, channelPaths, sampleRateHz } = task;
  const store = new DirectoryStore(task.mediaFolder);
  const noiseProfile = await profileOf(task, kernels);
  const outPath = await store.workPath();
  const { clips, recordingFrames } = track;
  const arrangement = { clips, recordingFrames, sampleRateHz, tone: await toneOf(task), kernels };
  const result = await renderSound({
    source: readArrangedFiles(channelPaths, arrangement),
    expectedFrames: arrangedFrames(arrangement),
    context: { sampleRateHz, channels: channelPaths.length, kernels, noiseProfile },
    chain: placedChain(track.chain, clips, sampleRateHz),
    levels: Levels.of(clips, recordingFrames, sampleRateHz),
    output: 'result',
    target,
    format: 'pcm24',
    outPath,
    report: true,
    onProgress: progress,
    signal,
  });
  const step = Math.max(1, Math.ceil(result.loudnessBefore.length / MOST_CHART_POINTS));
  return {
    fileSha: (await store.adopt(outPath)).sha,
    report: {
      lines: checkSheet(result.before!, result.after!, target),
      work: result.work,
      before: result.before!,
      after: result.after!,
      loudnessBefore: thinned(result.loudnessBefore, step),
      loudnessAfter: thinned(result.loudnessAfter, step),
      loudnessStepSeconds: step * 0.1,
    },
  };
}
