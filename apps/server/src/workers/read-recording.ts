import { rm } from 'node:fs/promises';
import { CoarseSpectrogram, createBlock, PeaksBuilder, SoundMeasure, type KernelModule } from '@euphonos/dsp';
import { decodeSound, hasPicture, MediaError, statedStart, newReport, probeSound, RawWriter, readingNotes } from '@euphonos/media';
import { openStore } from '../media-store/open-store.js';
import type { ReadResult, ReadTask } from './protocol.js';

/** Rates that a session can have as they are; everything else is converted to 48 kHz. */
const SESSION_RATES_HZ = [44100, 48000, 88200, 96000];
/**
 * Reads a sound file once: samples as 32-bit floats, one file a channel, at the session's rate; peaks; coarse
 * spectrogram; figures. Everything goes into the store; nothing is left behind when it fails.
 */
export async function readRecording(
  task: ReadTask,
  kernels: KernelModule,
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<ReadResult> {
  const store = await openStore(task.store);
  const found = await probeSound(task.originalPath);
  const sampleRateHz = task.rateHz ?? (SESSION_RATES_HZ.includes(found.sampleRateHz) ? found.sampleRateHz : 48000);
  const report = newReport();
  const measure = new SoundMeasure(kernels, sampleRateHz, found.channels, found.loudnessWeights);
  const peaks = new PeaksBuilder();
  const channelPeaks = found.channels > 1 ? Array.from({ length: found.channels }, () => new PeaksBuilder()) : [];
  const spectrogram = new CoarseSpectrogram(kernels, sampleRateHz);
  const paths = await Promise.all(createBlock(found.channels, 0).map(() => store.workPath()));
  const writers = paths.map((path) => new RawWriter(path));
  try {
    const expectedFrames = (found.statedSeconds ?? 0) * sampleRateHz;
    for await (const block of decodeSound(task.originalPath, found, { sampleRateHz, driftPpm: task.driftPpm, signal }, report)) {
      measure.process(block.channels, block.frames);
      peaks.process(block.channels, block.frames);
      for (const [c, own] of channelPeaks.entries()) own.process([block.channels[c]!], block.frames);
      spectrogram.process(block.channels, block.frames);
      for (const [c, writer] of writers.entries()) await writer.write({ channels: [block.channels[c]!], frames: block.frames });
      if (expectedFrames > 0) progress(Math.min(0.98, report.frames / expectedFrames));
    }
    await Promise.all(writers.map((writer) => writer.finish()));
    const channels: string[] = [];
    for (const path of paths) channels.push((await store.adopt(path)).sha);
    const put = async (bytes: Buffer): Promise<string> =>
      (
        await store.put(
          (async function* () {
            yield bytes;
          })(),
        )
      ).sha;
    const pyramids: string[] = [];
    for (const builder of [peaks, ...channelPeaks]) {
      const { buffer, byteOffset, byteLength } = builder.finish();
      pyramids.push(await put(Buffer.from(buffer, byteOffset, byteLength)));
    }
    const [all, ...own] = pyramids;
    return {
      facts: {
        format: found.format,
        codec: found.codec,
        fileSampleRateHz: found.sampleRateHz,
        sampleRateHz,
        channels: found.channels,
        lengthFrames: report.frames,
        figures: measure.finish(),
        notes: readingNotes(found, report, sampleRateHz),
        startSeconds: await statedStart(task.originalPath),
        // A clock that was set right runs beside the picture's.
        picture: task.driftPpm === 0 && (await hasPicture(task.originalPath).catch(() => false)),
      },
      blobs: {
        channels,
        peaks: all!,
        ...(own.length > 0 ? { channelPeaks: own } : {}),
        spectrogram: await put(Buffer.from(spectrogram.finish())),
      },
    };
  } catch (error) {
    if (signal.aborted) throw new MediaError('cancelled', 'Cancelled.');
    throw error;
  } finally {
    await Promise.all(writers.map((writer) => writer.finish()));
    await Promise.all(paths.map((path) => rm(path, { force: true })));
  }
}
