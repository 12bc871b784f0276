import { randomUUID } from 'node:crypto';
import type { Readable } from 'node:stream';
import { Inject, Injectable } from '@nestjs/common';
import { nameOfFile } from '@euphonos/contracts';
import { MOST_PARTS, MOST_TRACKS, type Placing } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { BatchEntity, BatchItemEntity } from '../batches/batch.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { StoreKeeper } from '../media-store/store-keeper.js';
import { withinSize } from '../media-store/room.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { QuotasService } from '../quotas/quotas.service.js';
import { askerId } from '../rights/asker.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SessionEntity } from '../sessions/session.entity.js';
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

/** Where something went. */
export interface Landed {
  readonly sessionId: string;
  readonly recordingId: string;
}

/** What comes in from outside: into the store, and into a session, where it is read as a job. */
@Injectable()
export class IntakeService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly quotas: QuotasService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    private readonly keeper: StoreKeeper,
  ) {}

  /**
   * Takes a file as a stream and makes a session of it, or adds it to one (`into`); reading it goes on as a job. A new session may wait
   * for more (`placing`: how they are placed then).
   * @throws {AppProblem} `upload-incomplete`, `not-found`; {MediaError} `file-empty`, `file-large`, `disk-full`
   */
  async bringIn(fileName: string, bytes: Readable, expectedBytes: number | undefined, into: BringInto = {}): Promise<Landed> {
    await this.keeper.requireRoom(expectedBytes);
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
  ): Promise<Landed> {
    const known = await this.landed(into.recordingId);
    if (known) return known;
    const holder = await this.#requirePlace(into, expectedBytes);
    // It lies on this disk already, and takes no more room.
    const { sha, sizeBytes } = await this.store.link(path);
    return this.#keep(fileName, sha, sizeBytes, into, holder);
  }

  /** Where a recording has come that was given an id before it came. */
  async landed(recordingId: string): Promise<Landed | null> {
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

  async #keep(fileName: string, sha: string, sizeBytes: number, into: BringInto, holder: Holder): Promise<Landed> {
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
}

const incomplete = (): AppProblem =>
  new AppProblem(400, 'upload-incomplete', 'The connection broke off before the file was complete; nothing was kept. Bring it in again.');
