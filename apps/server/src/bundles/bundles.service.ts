import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { finished, pipeline } from 'node:stream/promises';
import { isDeepStrictEqual } from 'node:util';
import { Inject, Injectable } from '@nestjs/common';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  profileIdsOf,
  safeName,
  sourcesOf,
  withIds,
  type Bundle,
  type BundledSession,
} from '@euphonos/engine';
import { MediaError, openBundle, writeBundle, type OpenBundle } from '@euphonos/media';
import { DataSource, In, IsNull, type EntityManager } from 'typeorm';
import type { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { StoreKeeper } from '../media-store/store-keeper.js';
import { withinSize } from '../media-store/room.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { ProductionEntity } from '../productions/production.entity.js';
import { shareWithMaker } from '../productions/productions.service.js';
import { QuotasService } from '../quotas/quotas.service.js';
import { askerId } from '../rights/asker.js';
import { ProfileEntity } from '../profiles/profile.entity.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SessionEntity } from '../sessions/session.entity.js';

/** A bundle on its way out: a zip, and how it is called. */
export interface Outgoing {
  readonly stream: Readable;
  readonly fileName: string;
}

/** Sessions with all that they are made of as one file, and back. */
@Injectable()
export class BundlesService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly quotas: QuotasService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    private readonly keeper: StoreKeeper,
  ) {}

  async ofSession(id: string): Promise<Outgoing> {
    const session = await this.dataSource.manager.findOneBy(SessionEntity, { id, deletedAt: IsNull() });
    if (!session) throw notFound('session');
    return this.#out([session], null, session.name);
  }

  async ofProduction(id: string): Promise<Outgoing> {
    const { manager } = this.dataSource;
    const production = await manager.findOneBy(ProductionEntity, { id });
    if (!production) throw notFound('production');
    const sessions = await manager.find(SessionEntity, { where: { productionId: id, deletedAt: IsNull() }, order: { createdAt: 'ASC' } });
    return this.#out(sessions, production.name, production.name);
  }

  async #out(sessions: readonly SessionEntity[], production: string | null, name: string): Promise<Outgoing> {
    const made = sessions.filter(({ document }) => document !== null);
    if (made.length === 0)
      throw new AppProblem(
        409,
        'not-ready',
        'Nothing of it has been read yet; there is nothing to bundle. What is read now can be bundled in a moment.',
      );
    const { manager } = this.dataSource;
    const recordings = new Map<string, RecordingEntity>();
    const bundled: BundledSession[] = [];
    for (const session of made) {
      const held = await manager.find(SessionRecordingEntity, { where: { sessionId: session.id }, order: { place: 'ASC' } });
      for (const { recording } of held) recordings.set(recording.id, recording);
      bundled.push({ name: session.name, document: session.document!, recordingIds: held.map(({ recordingId }) => recordingId) });
    }
    const profileIds = [...new Set(bundled.flatMap(({ document }) => profileIdsOf(document)))];
    const profiles = await manager.findBy(ProfileEntity, { id: In(profileIds) });
    const bundle: Bundle = {
      format: BUNDLE_FORMAT,
      version: BUNDLE_VERSION,
      production,
      sessions: bundled,
      recordings: [...recordings.values()].map(({ id, fileName, sizeBytes, originalSha, facts, rateHz, driftPpm }) => ({
        id,
        fileName,
        sizeBytes,
        sha256: originalSha,
        // As it was read, whatever another installation would choose.
        rateHz: facts?.sampleRateHz ?? rateHz,
        driftPpm,
      })),
      profiles: profiles.map((profile) => ({ id: profile.id, name: profile.name, file: profile.file })),
    };
    return { stream: await this.#streamOf(bundle), fileName: `${safeName(name) || 'sessions'}.bundle.zip` };
  }

  /** What it holds stays at hand until its last byte has gone out. */
  #streamOf(bundle: Bundle): Promise<Readable> {
    return new Promise((resolve, reject) => {
      const sent = this.store.holding(async () => {
        const paths = new Map<string, string>();
        for (const { sha256 } of sourcesOf(bundle)) paths.set(sha256, await this.store.path(sha256));
        const stream = writeBundle(bundle, (sha) => paths.get(sha)!);
        resolve(stream);
        // However it ends: whoever sends it hears of it.
        await finished(stream).catch(() => undefined);
      });
      sent.catch(reject);
    });
  }

  /**
   * Takes a bundle as a stream and makes its sessions anew, beside whatever there is. All of it or nothing.
   * @param firstId the id of its first session: one that is there already was taken in before, and is not taken twice
   * @returns ids of the sessions
   * @throws {AppProblem} `upload-incomplete`; {MediaError} `bundle-file`, `disk-full`; {EngineError}, {DspError} for what it says
   */
  async bringIn(bytes: Readable, expectedBytes: number | undefined, firstId?: string): Promise<{ readonly sessionIds: readonly string[] }> {
    if (firstId && (await this.dataSource.manager.existsBy(SessionEntity, { id: firstId }))) return { sessionIds: [firstId] };
    await this.keeper.requireRoom(expectedBytes);
    await this.quotas.require(this.dataSource.manager, askerId(), null, expectedBytes ?? 0);
    const path = await this.store.workPath();
    try {
      const file = createWriteStream(path, { flags: 'wx' });
      await pipeline(withinSize(bytes), file).catch((error: NodeJS.ErrnoException) => {
        if (error.code === 'ECONNRESET' || error.code === 'ERR_STREAM_PREMATURE_CLOSE') throw incomplete();
        throw error;
      });
      if (expectedBytes !== undefined && file.bytesWritten !== expectedBytes) throw incomplete();
      const open = await openBundle(path);
      try {
        await this.#takeSources(open);
        return await this.#make(open.bundle, firstId);
      } finally {
        open.close();
      }
    } finally {
      await rm(path, { force: true });
    }
  }

  /** Every source into the store; what comes of a bundle that is refused afterwards is swept like all that nobody refers to. */
  async #takeSources(open: OpenBundle): Promise<void> {
    const sources = sourcesOf(open.bundle);
    for (const { sha256 } of sources) await this.#take(open, sha256);
    // Others may have been tidying up meanwhile: the first of many came long ago, and nothing refers to it yet.
    for (const { sha256 } of sources) if (!(await this.store.touch(sha256))) await this.#take(open, sha256);
  }

  async #take({ source }: OpenBundle, sha256: string): Promise<void> {
    const { sha } = await this.store.put(await source(sha256));
    if (sha !== sha256)
      throw new MediaError('bundle-file', 'The bytes of a recording are not those that the bundle tells of. Nothing was taken over.');
  }

  async #make(
    { production, sessions, recordings, profiles }: Bundle,
    firstId?: string,
  ): Promise<{ readonly sessionIds: readonly string[] }> {
    const jobs: JobEntity[] = [];
    const sessionIds: string[] = [];
    await this.dataSource.transaction(async (manager) => {
      const productionId = production === null ? null : randomUUID();
      if (productionId) await manager.save(manager.create(ProductionEntity, { id: productionId, name: production!, archivedAt: null }));
      if (productionId) await shareWithMaker(manager, productionId);
      const profileIds = new Map<string, string>();
      for (const { id, name, file } of profiles) profileIds.set(id, await keptProfile(manager, id, name, file));
      for (const { name, document, recordingIds } of sessions) {
        const sessionId = sessionIds.length === 0 && firstId ? firstId : randomUUID();
        sessionIds.push(sessionId);
        // A recording belongs to one session: one that two of them share becomes two.
        const ids = new Map(recordingIds.map((id) => [id, randomUUID()]));
        await manager.save(
          manager.create(SessionEntity, {
            id: sessionId,
            name,
            document: null,
            toBe: withIds(document, new Map([...ids, ...profileIds])),
            placing: 'tracks',
            gathering: false,
            revision: 0,
            productionId,
            madeBy: askerId(),
            updatedAt: new Date(),
          }),
        );
        for (const [place, given] of recordingIds.entries()) {
          const { fileName, sizeBytes, sha256, rateHz, driftPpm } = recordings.find(({ id }) => id === given)!;
          const id = ids.get(given)!;
          const job = await this.jobs.create(manager, 'read', sessionId, id);
          jobs.push(job);
          await manager.save(
            manager.create(RecordingEntity, {
              id,
              fileName,
              sizeBytes,
              originalSha: sha256,
              rateHz,
              driftPpm,
              facts: null,
              blobs: null,
              job,
            }),
          );
          await manager.save(manager.create(SessionRecordingEntity, { sessionId, recordingId: id, place }));
        }
      }
      await this.quotas.require(manager, askerId(), null, 0);
    });
    for (const job of jobs) await this.jobs.announce(job);
    return { sessionIds };
  }
}

/** The same profile where it is kept already; else a new one. */
async function keptProfile(manager: EntityManager, id: string, name: string, file: ProfileEntity['file']): Promise<string> {
  const known = await manager.findOneBy(ProfileEntity, { id }).catch(() => null);
  if (known && isDeepStrictEqual(JSON.parse(JSON.stringify(known.file)), JSON.parse(JSON.stringify(file)))) return id;
  const made = manager.create(ProfileEntity, { id: randomUUID(), name, sessionId: null, file, madeBy: askerId() });
  return (await manager.save(made)).id;
}

const incomplete = (): AppProblem =>
  new AppProblem(400, 'upload-incomplete', 'The connection broke off before the bundle was complete; nothing was kept. Bring it in again.');
