import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import type { RecordingCue } from '@euphonos/contracts';
import type { SessionDocument } from '@euphonos/engine';
import { readCues } from '@euphonos/media';
import { DataSource, IsNull, Not, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import type { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SessionEntity } from '../sessions/session.entity.js';
import type { ReadResult } from '../workers/protocol.js';
import { WorkPool } from '../workers/work-pool.js';
import { arrange } from './arrange.js';
import { RecordingEntity } from './recording.entity.js';
import { SamplesService } from './samples.service.js';

/** Makes jobs that follow the reading of a session's recording. */
type AfterRead = (manager: EntityManager, sessionId: string) => Promise<JobEntity[]>;

@Injectable()
export class RecordingsService implements OnModuleInit {
  readonly #afterRead: AfterRead[] = [];

  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly pool: WorkPool,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    private readonly samples: SamplesService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onModuleInit(): void {
    this.jobs.register('read', {
      run: async (job, control) => {
        const recording = await this.find(job.subjectId);
        const { originalSha, rateHz, driftPpm } = recording;
        // The same bytes are read once: what is stored of them is by content, so two recordings may share it.
        const known = await this.#readAlready(recording);
        if (known) return known;
        return this.pool.read({ originalPath: await this.store.path(originalSha), store: this.config.store, rateHz, driftPpm }, control);
      },
      store: async (manager, job, { facts, blobs }) => {
        const known = await manager.findOneByOrFail(RecordingEntity, { id: job.subjectId });
        const all = { ...known.blobs, ...blobs };
        await manager.update(RecordingEntity, { id: job.subjectId }, { facts, blobs: all });
        const next = await arrange(manager, job.sessionId, this.#readAgain);
        for (const follow of this.#afterRead) next.push(...(await follow(manager, job.sessionId)));
        // Nobody waits for the picture: the sound is there without it.
        const wanted = facts.picture === true && !all.picture;
        return wanted ? [...next, await this.jobs.create(manager, 'picture', job.sessionId, job.subjectId, true)] : next;
      },
      failed: (manager, job) => arrange(manager, job.sessionId, this.#readAgain),
    });
  }

  /** What else is to be done once a recording has been read: asked in the transaction that says so. */
  onRead(follow: AfterRead): void {
    this.#afterRead.push(follow);
  }

  async #readAlready({ id, originalSha, rateHz, driftPpm }: RecordingEntity): Promise<Pick<ReadResult, 'facts' | 'blobs'> | null> {
    const others = await this.dataSource.manager.findBy(RecordingEntity, { originalSha, driftPpm, facts: Not(IsNull()), id: Not(id) });
    const same = others.find((other) => (rateHz === null ? other.rateHz === null : other.facts!.sampleRateHz === rateHz));
    return same?.blobs && (await this.samples.areThere(same.blobs)) ? { facts: same.facts!, blobs: same.blobs } : null;
  }

  readonly #readAgain = (manager: EntityManager, sessionId: string, recordingId: string): Promise<JobEntity> =>
    this.jobs.create(manager, 'read', sessionId, recordingId);

  /**
   * No more recordings are to come: the session gets its document as soon as all have been read. Where they have been already, `lay` may
   * lay it out before anybody sees it.
   */
  async gathered(sessionId: string, lay?: (document: SessionDocument) => SessionDocument): Promise<void> {
    const jobs = await this.dataSource.transaction(async (manager) => {
      const { affected } = await manager.update(SessionEntity, { id: sessionId }, { gathering: false });
      if (affected === 0) throw notFound('session');
      return arrange(manager, sessionId, this.#readAgain, lay);
    });
    for (const job of jobs) await this.jobs.announce(job);
    // Whoever has a list of sessions before them looks again.
    const held = await this.dataSource.manager.findOneBy(SessionRecordingEntity, { sessionId });
    if (held) await this.jobs.publish(held.recording.job);
  }

  /**
   * The same recording once more, read with the drift of its clock taken out: `ppm` parts per million longer. It joins the session, where it
   * can be put in the place of the other.
   * @throws {AppProblem} `not-found` for a recording that the session does not hold, `not-ready`
   */
  async withoutDrift(id: string, sessionId: string, ppm: number): Promise<{ sessionId: string; recordingId: string }> {
    const { manager } = this.dataSource;
    const held = await manager.findOneBy(SessionRecordingEntity, { sessionId, recordingId: id });
    if (!held) throw notFound('recording in this session');
    const { fileName, sizeBytes, originalSha, facts, driftPpm } = held.recording;
    const session = await manager.findOneBy(SessionEntity, { id: sessionId, deletedAt: IsNull() });
    if (!facts || !session?.document)
      throw new AppProblem(
        409,
        'not-ready',
        'The session has not been made of its recordings yet, or was deleted; nothing was read again.',
      );
    const recordingId = randomUUID();
    const job = await this.dataSource.transaction(async (inside) => {
      const made = await this.jobs.create(inside, 'read', sessionId, recordingId);
      await inside.save(
        inside.create(RecordingEntity, {
          id: recordingId,
          fileName,
          sizeBytes,
          originalSha,
          rateHz: facts.sampleRateHz,
          driftPpm: driftPpm + ppm,
          facts: null,
          blobs: null,
          job: made,
        }),
      );
      const place = await inside.countBy(SessionRecordingEntity, { sessionId });
      await inside.save(inside.create(SessionRecordingEntity, { sessionId, recordingId, place }));
      return made;
    });
    await this.jobs.announce(job);
    return { sessionId, recordingId };
  }

  async find(id: string): Promise<RecordingEntity> {
    const recording = await this.dataSource.manager.findOneBy(RecordingEntity, { id });
    if (!recording) throw notFound('recording');
    return recording;
  }

  /** Cue points of the file, in seconds of the recording as it is worked on. */
  async cues(id: string): Promise<readonly RecordingCue[]> {
    const { originalSha, facts, driftPpm } = await this.find(id);
    if (!facts) return [];
    const seconds = (frames: number): number => (frames / facts.fileSampleRateHz) * (1 + driftPpm / 1e6);
    return (await readCues(await this.store.path(originalSha))).map(({ frame, frames, name, note }) => ({
      atSeconds: seconds(frame),
      seconds: frames === null ? null : seconds(frames),
      name,
      note,
    }));
  }

  /** The file as it was brought in. */
  async original(id: string): Promise<{ readonly path: string; readonly fileName: string }> {
    const { originalSha, fileName } = await this.find(id);
    return { path: await this.store.path(originalSha), fileName };
  }

  /** The path of a stored file of a recording. */
  async blobPath(id: string, pick: (blobs: NonNullable<RecordingEntity['blobs']>) => string | undefined): Promise<string> {
    const { blobs } = await this.find(id);
    const sha = blobs && pick(blobs);
    if (!sha) throw notFound('part of the recording');
    return this.store.path(sha);
  }
}
