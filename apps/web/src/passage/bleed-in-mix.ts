import { BleedListener, findBleed, MAX_BLOCK_FRAMES, type KernelModule, type ListRow } from '@euphonos/dsp';
import { CHUNK_FRAMES, endOf, recordingSpans } from '@euphonos/engine';
import { ArrangedReader } from '../audio/arranged.js';
import type { RestTrack } from './rest-sound.js';

/** Where each track hears somebody else only, as rows of the treatment: in seconds of its reel. Of the recordings, before any chain. Runs in a worker. */
export async function bleedInMix(kernels: KernelModule, tracks: readonly RestTrack[]): Promise<ListRow[][]> {
  const listeners: BleedListener[] = [];
  const lengthFrames = Math.max(0, ...tracks.map(({ sound }) => endOf(sound.clips)));
  for (const { source, sound } of tracks) {
    const reader = new ArrangedReader(source, sound, undefined, kernels);
    const listener = new BleedListener(kernels, source.sampleRateHz);
    const mono = new Float32Array(CHUNK_FRAMES);
    for (let start = 0; start < lengthFrames; start += CHUNK_FRAMES) {
      const chunk = start < endOf(sound.clips) ? await reader.chunk(start / CHUNK_FRAMES) : [];
      const frames = Math.min(CHUNK_FRAMES, lengthFrames - start);
      for (let n = 0; n < frames; n++) mono[n] = chunk.reduce((sum, samples) => sum + samples[n]!, 0) / Math.max(1, chunk.length);
      for (let at = 0; at < frames; at += MAX_BLOCK_FRAMES) {
        const count = Math.min(MAX_BLOCK_FRAMES, frames - at);
        listener.process(mono.subarray(at, at + count), count);
      }
    }
    listeners.push(listener);
  }
  return findBleed(listeners).map((spans, i) => {
    const { source, sound } = tracks[i]!;
    const rate = source.sampleRateHz;
    return spans
      .flatMap(({ startSeconds, endSeconds }) =>
        recordingSpans(sound.clips, { startFrame: Math.round(startSeconds * rate), endFrame: Math.round(endSeconds * rate) }),
      )
      .map(({ startFrame, endFrame }) => ({
        startSeconds: Math.round((1000 * startFrame) / rate) / 1000,
        endSeconds: Math.round((1000 * endFrame) / rate) / 1000,
        state: 'treat',
      }))
      .filter(({ startSeconds, endSeconds }) => endSeconds > startSeconds);
  });
}
