import { MessageChannel } from 'node:worker_threads';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { MediaError, type MediaErrorCode } from '@euphonos/media';
import { Piscina } from 'piscina';
import type { Survey } from '@euphonos/dsp';
import { fromRoot } from '../config.js';
import type { JobControl } from '../jobs/jobs.service.js';
import type {
  PartMade,
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

/** Threads of each kind: for what somebody waits for, and for the rest. */
const THREADS = 2;
/** What nobody waits for gives way to whoever is asked: nice(2), of a thread. */
const LATER_NICENESS = 5;

/** The worker threads that do the computing. */
@Injectable()
export class WorkPool implements OnApplicationShutdown {
  readonly #now = this.#threads(0);
  readonly #later = this.#threads(LATER_NICENESS);

  #threads(niceness: number): Piscina {
    return new Piscina({
      // Compiled code only: from the sources (tests) the threads run what the last build made.
      filename: fromRoot('apps/server/dist-bundle/worker.js'),
      minThreads: 0,
      maxThreads: THREADS,
      idleTimeout: 30000,
      workerData: { niceness } satisfies ThreadData,
    });
  }

  read(task: Omit<ReadTask, 'port'>, control: JobControl): Promise<ReadResult> {
    return this.#run<ReadResult>('read', task, control);
  }

  /** @param keep notes a part that was made, before the next one begins */
  render(task: Omit<RenderTask, 'port'>, control: JobControl, keep: (part: PartMade) => Promise<void>): Promise<RenderDone> {
    return this.#run<RenderDone>('render', task, control, keep);
  }

  survey(task: Omit<SurveyTask, 'port'>, control: JobControl): Promise<Survey> {
    return this.#run<Survey>('survey', task, control);
  }

  /** Nobody waits for long: it is not cancelled. */
  picture(task: Omit<PictureTask, 'port'>): Promise<PictureDone> {
    return this.#run<PictureDone>('picture', task, { signal: new AbortController().signal, later: false, progress: () => undefined });
  }

  async #run<Result extends object>(
    name: string,
    task: object,
    { signal, later, progress }: JobControl,
    keep?: (part: PartMade) => Promise<void>,
  ): Promise<Result> {
    const { port1, port2 } = new MessageChannel();
    const cancel = (): void => port1.postMessage('cancel');
    // Why the work goes no further, when that is not what it says itself.
    let failed: Error | undefined;
    port1.on('message', (said: number | PartMade) => {
      if (typeof said === 'number') return progress(said);
      keep!(said).then(
        () => port1.postMessage('kept'),
        (error: Error) => {
          failed = error;
          cancel();
        },
      );
    });
    signal.addEventListener('abort', cancel);
    try {
      const result = (await (later ? this.#later : this.#now).run({ ...task, port: port2 }, { name, transferList: [port2] })) as
        Result | TaskFailure;
      if (!('failure' in result)) return result;
      throw failed ?? failureAsError(result);
    } finally {
      signal.removeEventListener('abort', cancel);
      port1.close();
    }
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([this.#now.destroy(), this.#later.destroy()]);
  }
}

function failureAsError({ failure }: TaskFailure): Error {
  return failure.name === 'MediaError' || failure.name === 'DspError'
    ? new MediaError(failure.code as MediaErrorCode, failure.message)
    : Object.assign(new Error(failure.message), { code: failure.code });
}
