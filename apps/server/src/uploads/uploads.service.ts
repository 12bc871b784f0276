import { randomUUID } from 'node:crypto';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import { asMediaError, MediaError } from '@euphonos/media';
import type { NextFunction, Request, Response } from 'express';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { log } from '../log.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { StoreKeeper } from '../media-store/store-keeper.js';
import { MOST_FILE_BYTES } from '../media-store/room.js';
import { AppProblem } from '../problems/app-problem.js';
import { answerTo } from '../problems/problem.filter.js';
import { QuotasService } from '../quotas/quotas.service.js';
import { askerId, seesAll } from '../rights/asker.js';
import { RightsGuard } from '../rights/rights.guard.js';

/** What was begun and is not gone on with is kept so long. */
const KEPT_MS = 7 * 24 * 3_600_000;
const TIDY_MS = 6 * 3_600_000;
/** Less than this is left when a disk cannot take a part of a file. */
const NO_ROOM_BYTES = 16 * 2 ** 20;
const METHODS = new Set(['POST', 'HEAD', 'PATCH', 'DELETE']);
const ID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

const gone = (): AppProblem =>
  new AppProblem(
    404,
    'upload-gone',
    'There is nothing of this file here any more: it was taken in, or was left for a week. Bring it in again.',
  );

/** An error as the protocol gives it on: with a status and a body. */
function asTus(error: unknown): { readonly status_code: number; readonly body: string } {
  const { status, code, message, data } = answerTo(error);
  return { status_code: status, body: JSON.stringify({ code, message, ...(data ? { data } : {}) }) };
}

/**
 * Files on their way here, in parts that go on where they were: after a line that broke, a page that was closed, a server that was
 * killed (tus resumable upload protocol 1.0.0: creation, creation with upload, termination, expiration). What has come whole is taken in by
 * another request, as often as it is asked for, once.
 */
@Injectable()
export class UploadsService implements OnApplicationBootstrap, OnModuleDestroy {
  readonly #files: FileStore;
  readonly #server: Server;
  readonly #landing = new Map<string, Promise<unknown>>();
  #timer: NodeJS.Timeout | undefined;

  constructor(
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    private readonly keeper: StoreKeeper,
    private readonly quotas: QuotasService,
    private readonly guard: RightsGuard,
  ) {
    this.#files = new FileStore({ directory: config.uploadsFolder, expirationPeriodInMilliseconds: KEPT_MS });
    this.#server = new Server({
      path: '/api/uploads',
      datastore: this.#files,
      relativeLocation: true,
      maxSize: MOST_FILE_BYTES,
      namingFunction: () => randomUUID(),
      // The door has decided who may ask; no other page is let in.
      allowedOrigins: () => false,
      onUploadCreate: async (_, upload) => {
        try {
          if (upload.size === undefined) throw new AppProblem(400, 'upload-length', 'How long the file is must be said before it comes.');
          await this.keeper.requireRoom(upload.size);
          await this.quotas.require(null, askerId(), null, upload.size);
        } catch (error) {
          throw asTus(error);
        }
        return { metadata: { filename: upload.metadata?.['filename'] ?? null, owner: askerId() } };
      },
      onResponseError: async (_, error) => {
        if ('status_code' in error && error.status_code < 500) return undefined;
        const known = asMediaError(error);
        if (known instanceof MediaError && known.code !== 'disk-full') return asTus(known);
        const { freeBytes } = await this.store.space();
        if (freeBytes > NO_ROOM_BYTES) return undefined;
        const full = new AppProblem(
          507,
          'disk-full',
          'The disk is full. What had come of the file is kept; free some space, then bring it in again: it goes on from there.',
        );
        return asTus(full);
      },
    });
  }

  onApplicationBootstrap(): void {
    this.#timer = setInterval(() => void this.tidy(), TIDY_MS);
    void this.tidy();
  }

  onModuleDestroy(): void {
    clearInterval(this.#timer);
  }

  async tidy(): Promise<void> {
    try {
      await mkdir(this.config.uploadsFolder, { recursive: true });
      const removed = await this.#server.cleanUpExpiredUploads();
      if (removed > 0) log.info({ removed }, 'files that never came whole were removed');
    } catch (error) {
      log.warn({ err: error }, 'could not tidy uploads');
    }
  }

  /** As middleware, behind whoever finds out who asks. */
  readonly handle = async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    const [, path, id] = /^\/api\/(uploads)(?:\/([^/]*))?$/.exec(request.path) ?? [];
    if (!path) return next();
    try {
      if (!METHODS.has(request.method)) throw new AppProblem(405, 'method', 'A file on its way is sent, not read.');
      await this.guard.requireRights([{ kind: 'role', least: 'engineer' }], request);
      if (id !== undefined) await this.#find(id);
      await mkdir(this.config.uploadsFolder, { recursive: true });
    } catch (error) {
      const { status, code, message } = answerTo(error);
      response.setHeader('connection', 'close').status(status).json({ code, message });
      return;
    }
    await this.#server.handle(request, response);
  };

  /** @throws {AppProblem} `upload-gone` for what is not there, or somebody else's */
  async #find(id: string): Promise<{ readonly sizeBytes: number; readonly offset: number }> {
    const upload = ID.test(id) ? await this.#files.getUpload(id).catch(() => null) : null;
    if (!upload || !(seesAll() || upload.metadata?.['owner'] === askerId())) throw gone();
    return { sizeBytes: upload.size ?? -1, offset: upload.offset };
  }

  /**
   * Takes in what has come whole. `land` is told where it lies, and may be asked again for one that it has taken in already.
   * @throws {AppProblem} `upload-incomplete` with what is there, `upload-gone`
   */
  async land<Result>(id: string, land: (path: string, sizeBytes: number) => Promise<Result>): Promise<Result> {
    const { sizeBytes, offset } = await this.#find(id);
    if (offset !== sizeBytes)
      throw new AppProblem(
        409,
        'upload-incomplete',
        `Only ${offset} of ${sizeBytes} bytes have come. Bring it in again: it goes on from there.`,
        { offset },
      );
    const known = this.#landing.get(id);
    if (known) return known as Promise<Result>;
    const work = land(join(this.config.uploadsFolder, id), sizeBytes).then(async (result) => {
      await this.#files.remove(id).catch(() => undefined);
      return result;
    });
    this.#landing.set(id, work);
    return work.finally(() => this.#landing.delete(id));
  }
}
