import { randomUUID } from 'node:crypto';
import type { Readable } from 'node:stream';
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { nameOfFile, type RecordingCue } from '@euphonos/contracts';
import { MOST_PARTS, MOST_TRACKS, type Placing, type SessionDocument } from '@euphonos/engine';
import { MediaError, readCues } from '@euphonos/media';
import { DataSource, IsNull, Not, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { BatchEntity, BatchItemEntity } from '../batches/batch.entity.js';
import type { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { withinSize } from '../media-store/room.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SessionEntity } from '../sessions/session.entity.js';
import { QuotasService } from '../quotas/quotas.service.js';
import { askerId } from '../rights/asker.js';
import type { ReadResult } from '../workers/protocol.js';
import { WorkPool } from '../workers/work-pool.js';
import { arrange } from './arrange.js';
import { RecordingEntity } from './recording.entity.js';
import { cleanName } from './recording-view.js';

/** Where a file goes that is brought in. */
export interface BringInto {
  /** A session that is there; without one a new one is made of it. */
  readonly sessionId?: string | undefined;
  /** The new one waits for more, which are placed so. */
  readonly placing?: Placing | undefined;
  readonly batchId?: string | undefined;
  /** The new one, and the recording, have an id already: done twice they are there once. */
  readonly newSession?: { readonly id: string; readonly name: string; readonly placing: Placing } | undefined;
  readonly recordingId?: string | undefined;
  /** It was recorded already, and is kept whatever room there is. */
  readonly isTake?: boolean | undefined;
  /** Whose the new one is; left out: of whoever asks. */
  readonly madeBy?: string | null | undefined;
}

/** On whose account, and in which production, something lies. */
interface Holder {
  readonly madeBy: string | null;
  readonly productionId: string | null;
}

/** Makes jobs that follow the reading of a session's recording. */
type AfterRead = (manager: EntityManager, sessionId: string) => Promise<JobEntity[]>;

@Injectable()
export class RecordingsService implements OnModuleInit {
  readonly #afterRead: AfterRead[] = [];

  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly pool: WorkPool,
    private readonly quotas: QuotasService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
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
        return this.pool.read(
          { originalPath: this.store.path(originalSha), mediaFolder: this.config.mediaFolder, rateHz, driftPpm },
          control,
        );
      },
      store: async (manager, job, { facts, blobs }) => {
        await manager.update(RecordingEntity, { id: job.subjectId }, { facts, blobs });
        const next = await arrange(manager, job.sessionId, this.#readAgain);
        for (const follow of this.#afterRead) next.push(...(await follow(manager, job.sessionId)));
        // Nobody waits for the picture: the sound is there without it.
        const wanted = facts.picture === true && !blobs.picture;
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
    return same?.blobs ? { facts: same.facts!, blobs: same.blobs } : null;
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
   * Takes a file as a stream and makes a session of it, or adds it to one (`into`); reading it goes on as a job. A new session may wait
   * for more (`placing`: how they are placed then).
   * @throws {AppProblem} `upload-incomplete`, `not-found`; {MediaError} `file-empty`, `file-large`, `disk-full`
   */
  async bringIn(
    fileName: string,
    bytes: Readable,
    expectedBytes: number | undefined,
    into: BringInto = {},
  ): Promise<{ sessionId: string; recordingId: string }> {
    await this.store.requireRoom(expectedBytes);
    const holder = await this.#requirePlace(into, expectedBytes);
    const { sha, sizeBytes } = await this.store.put(withinSize(bytes)).catch((error: unknown) => {
      // A full disk also ends the stream; it is told as what it is.
      if (error instanceof MediaError) throw error;
      if (bytes.readableAborted || (error as { code?: string }).code === 'ECONNRESET') throw incomplete();
      throw error;
    });
    if (expectedBytes !== undefined && sizeBytes !== expectedBytes) throw incomplete();
    return this.#keep(fileName, sha, sizeBytes, into, holder);
  }

  /** The same with a file that has come whole and lies here; `recordingId` says whether it was taken in before. */
  async bringInFile(
    fileName: string,
    path: string,
    expectedBytes: number,
    into: BringInto & { readonly recordingId: string },
  ): Promise<{ sessionId: string; recordingId: string }> {
    const known = await this.landed(into.recordingId);
    if (known) return known;
    const holder = await this.#requirePlace(into, expectedBytes);
    // It lies on this disk already, and takes no more room.
    const { sha, sizeBytes } = await this.store.link(path);
    return this.#keep(fileName, sha, sizeBytes, into, holder);
  }

  /** Where a recording has come that was given an id before it came. */
  async landed(recordingId: string): Promise<{ sessionId: string; recordingId: string } | null> {
    const held = await this.dataSource.manager.findOneBy(SessionRecordingEntity, { recordingId });
    return held && { sessionId: held.sessionId, recordingId };
  }

  async #requirePlace(into: BringInto, expectedBytes: number | undefined): Promise<Holder> {
    if (into.sessionId) await this.#requireRoom(into.sessionId);
    if (into.batchId && !(await this.dataSource.manager.existsBy(BatchEntity, { id: into.batchId }))) throw notFound('batch');
    const holder = await this.#holderOf(into);
    await this.quotas.require(this.dataSource.manager, holder.madeBy, holder.productionId, expectedBytes ?? 0);
    return holder;
  }

  async #keep(
    fileName: string,
    sha: string,
    sizeBytes: number,
    into: BringInto,
    holder: Holder,
  ): Promise<{ sessionId: string; recordingId: string }> {
    if (sizeBytes === 0) throw new MediaError('file-empty', 'The file is empty (0 bytes). Was it copied completely?');
    const name = cleanName(fileName);
    const sessionId = into.sessionId ?? into.newSession?.id ?? randomUUID();
    const recordingId = into.recordingId ?? randomUUID();
    const job = await this.dataSource.transaction(async (manager) => {
      const made = await this.jobs.create(manager, 'read', sessionId, recordingId, into.batchId !== undefined);
      // Who joins a session at work takes its rate.
      const held = into.sessionId ? await manager.findOneByOrFail(SessionEntity, { id: sessionId }) : null;
      const rateHz = held?.document?.sampleRateHz ?? null;
      await manager.save(
        manager.create(RecordingEntity, {
          id: recordingId,
          fileName: name,
          sizeBytes,
          originalSha: sha,
          rateHz,
          driftPpm: 0,
          facts: null,
          blobs: null,
          job: made,
        }),
      );
      if (!held)
        await manager.save(
          manager.create(SessionEntity, {
            id: sessionId,
            name: into.newSession?.name ?? nameOfFile(name),
            document: null,
            placing: into.newSession?.placing ?? into.placing ?? 'tracks',
            gathering: into.placing !== undefined,
            madeBy: into.madeBy === undefined ? askerId() : into.madeBy,
            revision: 0,
            updatedAt: new Date(),
          }),
        );
      const place = held ? await manager.countBy(SessionRecordingEntity, { sessionId }) : 0;
      await manager.save(manager.create(SessionRecordingEntity, { sessionId, recordingId, place }));
      if (into.batchId && !held) {
        const nth = await manager.countBy(BatchItemEntity, { batchId: into.batchId });
        await manager.save(
          manager.create(BatchItemEntity, { sessionId, batchId: into.batchId, place: nth, needsEar: [], accepted: false, putOut: null }),
        );
      }
      // A take was recorded already, and is kept.
      if (!into.isTake) await this.quotas.require(manager, holder.madeBy, holder.productionId, 0);
      return made;
    });
    await this.jobs.announce(job);
    return { sessionId, recordingId };
  }

  /** On whose account something comes in. */
  async #holderOf({ sessionId, madeBy, isTake }: BringInto): Promise<Holder> {
    const session = sessionId ? await this.dataSource.manager.findOneBy(SessionEntity, { id: sessionId }) : null;
    if (isTake) return { madeBy: null, productionId: null };
    return session ?? { madeBy: madeBy === undefined ? askerId() : madeBy, productionId: null };
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

  /** A session that is still gathered holds no more recordings than can be placed as was wished. */
  async #requireRoom(sessionId: string): Promise<void> {
    const session = await this.dataSource.manager.findOneBy(SessionEntity, { id: sessionId });
    if (!session) throw notFound('session');
    if (session.document) return;
    const most = session.placing === 'tracks' ? MOST_TRACKS : MOST_PARTS;
    if ((await this.dataSource.manager.countBy(SessionRecordingEntity, { sessionId })) >= most)
      throw new AppProblem(
        409,
        'session-full',
        `A session that is made so holds up to ${most} recordings; this one has them. Those that are there are safe; bring the rest into another session.`,
        { most },
      );
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
    return (await readCues(this.store.path(originalSha))).map(({ frame, frames, name, note }) => ({
      atSeconds: seconds(frame),
      seconds: frames === null ? null : seconds(frames),
      name,
      note,
    }));
  }

  /** The file as it was brought in. */
  async original(id: string): Promise<{ readonly path: string; readonly fileName: string }> {
    const { originalSha, fileName } = await this.find(id);
    return { path: this.store.path(originalSha), fileName };
  }

  /** The path of a stored file of a recording. */
  async blobPath(id: string, pick: (blobs: NonNullable<RecordingEntity['blobs']>) => string | undefined): Promise<string> {
    const { blobs } = await this.find(id);
    const sha = blobs && pick(blobs);
    if (!sha) throw notFound('part of the recording');
    return this.store.path(sha);
  }
}

const incomplete = (): AppProblem =>
  new AppProblem(400, 'upload-incomplete', 'The connection broke off before the file was complete; nothing was kept. Bring it in again.');
