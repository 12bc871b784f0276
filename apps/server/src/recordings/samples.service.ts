import { Inject, Injectable } from '@nestjs/common';
import type { Problem } from '@euphonos/contracts';
import { MediaError } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { RecordingEntity, type RecordingBlobs } from './recording.entity.js';

/** What could not be read again is not tried all the time. */
const TRIED_AGAIN_MS = 600_000;

/** The samples of recordings, which are made of the file that came: where they have made room for others they are read once more. */
@Injectable()
export class SamplesService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  /**
   * Paths of the samples of some channels of a recording. They may have made room for others: then they are read again.
   * @throws {MediaError} `samples-away` until they are there
   */
  async paths(id: string, channels?: readonly number[]): Promise<string[]> {
    const { blobs } = await this.dataSource.manager.findOneByOrFail(RecordingEntity, { id });
    const shas = channels ? channels.map((channel) => blobs!.channels[channel]!) : blobs!.channels;
    try {
      return await Promise.all(shas.map((sha) => this.store.path(sha)));
    } catch (error) {
      if (!(error instanceof MediaError) || error.code !== 'file-missing') throw error;
      const problem = await this.#readOnceMore(id);
      throw problem
        ? new MediaError('file-missing', `Its samples had made room for others, and could not be read again. ${problem.message}`)
        : new MediaError(
            'samples-away',
            'Its samples had made room for others and are read again from its file; it goes on by itself when they are.',
          );
    }
  }

  /** Of a session that is opened: samples that had made room are read again from now on. */
  async haveThem(sessionId: string): Promise<void> {
    const held = await this.dataSource.manager.findBy(SessionRecordingEntity, { sessionId });
    for (const { recording } of held)
      if (recording.blobs && !(await this.areThere(recording.blobs))) await this.#readOnceMore(recording.id);
  }

  async areThere({ channels }: RecordingBlobs): Promise<boolean> {
    const there = await Promise.all(channels.map((sha) => this.store.has(sha)));
    return there.every(Boolean);
  }

  /** @returns why they could not be, when that was tried a moment ago */
  async #readOnceMore(id: string): Promise<Problem | null> {
    const made = await this.dataSource.transaction(async (manager) => {
      // Two that miss them at once have them read once.
      const recording = await manager.findOneOrFail(RecordingEntity, {
        where: { id },
        lock: { mode: 'pessimistic_write', tables: ['recording'] },
      });
      const { state, problem, createdAt } = recording.job;
      if (state === 'queued' || state === 'running') return null;
      if (problem && Date.now() - createdAt.getTime() < TRIED_AGAIN_MS) return problem;
      const { sessionId } = await manager.findOneByOrFail(SessionRecordingEntity, { recordingId: id });
      const job = await this.jobs.create(manager, 'read', sessionId, id);
      await manager.update(RecordingEntity, { id }, { job });
      return job;
    });
    if (!(made instanceof JobEntity)) return made;
    await this.jobs.announce(made);
    return null;
  }
}
