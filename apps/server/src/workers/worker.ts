import { loadKernels, RESULT_INK, soundAsPng, SOURCE_INK } from '@euphonos/media';
import { setPriority } from 'node:os';
import { workerData } from 'piscina';
import { readRecording } from './read-recording.js';
import { renderTracks } from './render-tracks.js';
import type { Survey } from '@euphonos/dsp';
import { surveyRecording } from './survey-recording.js';
import type {
  PictureDone,
  PictureTask,
  ReadResult,
  ReadTask,
  RenderDone,
  RenderTask,
  SurveyTask,
  TaskFailure,
  ThreadData,
} from './protocol.js';

// Runs in a worker thread; each named export is a task.
// On Linux this is of the thread alone, and of the programs that it starts.
const { niceness } = workerData as ThreadData;
if (niceness > 0) setPriority(niceness);
const kernels = loadKernels();

async function attempt<Task extends ReadTask | RenderTask | SurveyTask | PictureTask, Result>(
  task: Task,
  work: (task: Task, module: object, signal: AbortSignal, progress: (share: number) => void) => Promise<Result>,
): Promise<Result | TaskFailure> {
  const controller = new AbortController();
  task.port.on('message', (message) => message === 'cancel' && controller.abort());
  try {
    return await work(task, kernels, controller.signal, (share) => task.port.postMessage(share));
  } catch (error) {
    const { name, code, message } = error as Error & { code?: string };
    return { failure: { name, code: code ?? 'unexpected', message } };
  } finally {
    task.port.close();
  }
}

export const read = (task: ReadTask): Promise<ReadResult | TaskFailure> => attempt(task, readRecording);
export const render = (task: RenderTask): Promise<RenderDone | TaskFailure> => attempt(task, renderTracks);
export const survey = (task: SurveyTask): Promise<Survey | TaskFailure> => attempt(task, surveyRecording);
export const picture = (task: PictureTask): Promise<PictureDone | TaskFailure> =>
  attempt(task, async ({ path, of }) => ({
    png: (await soundAsPng(path, of === 'source' ? SOURCE_INK : RESULT_INK, kernels)).toString('base64'),
  }));
