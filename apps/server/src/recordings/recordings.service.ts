import { randomUUID } from 'node:crypto';
import type { Readable } from 'node:stream';
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { MAX_NAME_LENGTH, type RecordingView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { jobView, type JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { SessionEntity } from '../sessions/session.entity.js';
import { WorkPool } from '../workers/work-pool.js';
import { RecordingEntity } from './recording.entity.js';

export const recordingView = ({ id, fileName, sizeBytes, job, facts }: RecordingEntity): RecordingView => ({
  id,
  fileName,
  sizeBytes,
  facts,
  job: jobView(job),
});

/** A name as it can be shown and stored: no control characters, no path, cut to length; never empty. */
export function cleanName(given: string): string {
  const base = given.split(/[/\\]/).pop() ?? '';
  // Control characters have no place in a name; lone surrogates cannot be stored as UTF-8.
  const printable = Array.from(base).filter((sign) => !/[\p{Cc}\p{Cs}]/u.test(sign));
  return printable.slice(0, MAX_NAME_LENGTH).join('').trim() || 'recording';
}

/** The name of a session made from a file: without its ending. */
export const sessionName = (fileName: string): string => fileName.replace(/\.[A-Za-z0-9]{1,5}$/, '') || fileName;

@Injectable()
export class RecordingsService implements OnModuleInit {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly pool: WorkPool,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onModuleInit(): void {
    this.jobs.register('read', {
      run: async (job, control) => {
        const recording = await this.find(job.subjectId);
        return this.pool.read({ originalPath: this.store.path(recording.originalSha), mediaFolder: this.config.mediaFolder }, control);
      },
      store: async (manager, job, { facts, blobs }) => {
        await manager.update(RecordingEntity, { id: job.subjectId }, { facts, blobs });
        const recording = await manager.findOneByOrFail(RecordingEntity, { id: job.subjectId });
        const document = createDocument({ id: recording.id, name: sessionName(recording.fileName), ...facts });
        await manager.update(SessionEntity, { id: job.sessionId }, { document, revision: 1, updatedAt: new Date() });
      },
    });
  }

  /**
   * Takes a file as a stream and makes a session of it; reading it goes on as a job.
   * @throws {AppProblem} `upload-incomplete`; {MediaError} `file-empty`, `disk-full`
   */
  async bringIn(fileName: string, bytes: Readable, expectedBytes: number | undefined): Promise<SessionEntity> {
    const { sha, sizeBytes } = await this.store.put(bytes).catch((error: unknown) => {
      // A full disk also ends the stream; it is told as what it is.
      if (error instanceof MediaError) throw error;
      if (bytes.readableAborted || (error as { code?: string }).code === 'ECONNRESET') throw incomplete();
      throw error;
    });
    if (expectedBytes !== undefined && sizeBytes !== expectedBytes) throw incomplete();
    if (sizeBytes === 0) throw new MediaError('file-empty', 'The file is empty (0 bytes). Was it copied completely?');
    const name = cleanName(fileName);
    const sessionId = randomUUID();
    const recordingId = randomUUID();
    let job!: JobEntity;
    const session = await this.dataSource.transaction(async (manager) => {
      job = await this.jobs.create(manager, 'read', sessionId, recordingId);
      const recording = await manager.save(
        manager.create(RecordingEntity, { id: recordingId, fileName: name, sizeBytes, originalSha: sha, facts: null, blobs: null, job }),
      );
      return manager.save(
        manager.create(SessionEntity, {
          id: sessionId,
          name: sessionName(name),
          recording,
          document: null,
          revision: 0,
          updatedAt: new Date(),
        }),
      );
    });
    await this.jobs.announce(job);
    return session;
  }

  async find(id: string): Promise<RecordingEntity> {
    const recording = await this.dataSource.manager.findOneBy(RecordingEntity, { id });
    if (!recording) throw notFound('recording');
    return recording;
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
