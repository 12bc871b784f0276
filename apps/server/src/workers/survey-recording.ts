import { Surveyor, type KernelModule, type Survey } from '@euphonos/dsp';
import { MediaError, readChannelFiles } from '@euphonos/media';
import type { SurveyTask } from './protocol.js';

/** Measures the condition of a recording from its stored samples, in one pass. */
export async function surveyRecording(
  task: SurveyTask,
  kernels: KernelModule,
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<Survey> {
  const { channelPaths, sampleRateHz, lengthFrames } = task;
  const surveyor = new Surveyor(kernels, sampleRateHz, channelPaths.length);
  let at = 0;
  for await (const { channels, frames } of readChannelFiles(channelPaths, 0, lengthFrames)) {
    if (signal.aborted) throw new MediaError('cancelled', 'Cancelled.');
    surveyor.process(channels, frames);
    at += frames;
    progress(Math.min(0.98, at / Math.max(1, lengthFrames)));
  }
  return surveyor.finish();
}
