import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { MediaError } from '@euphonos/media';
import { DataSource, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { log } from '../log.js';
import { MEDIA_STORE, YOUNG_MS, type MediaStore } from './media-store.js';
import { missingRoom } from './room.js';

/** What a backup holds as long as it is made (scripts/lib/backup.mjs). */
const STORE_LOCK = 734_001;

/** Each SHA-256 that anything refers to. */
export const REFERENCED = `
  SELECT original_sha AS sha FROM recording
  UNION SELECT blobs->>'peaks' FROM recording
  UNION SELECT blobs->>'spectrogram' FROM recording
  UNION SELECT blobs->'picture'->>'sha' FROM recording
  UNION SELECT jsonb_array_elements_text(blobs->'channelPeaks') FROM recording
  UNION SELECT jsonb_array_elements_text(blobs->'channels') FROM recording
  UNION SELECT document->'cover'->>'sha256' FROM session
  UNION SELECT to_be->'cover'->>'sha256' FROM session
  UNION SELECT document->'cover'->>'sha256' FROM render
  UNION SELECT file_sha FROM render
  UNION SELECT sha FROM render_part JOIN render ON render.id = render_id JOIN job ON job.id = job_id WHERE job.state IN ('queued', 'running')`;

/** Samples are made again of the file that came; not of sessions that are at work. */
const MADE_AGAIN = `
  SELECT DISTINCT jsonb_array_elements_text(blobs->'channels') AS sha FROM recording
  WHERE NOT EXISTS (
    SELECT FROM session_recording JOIN job ON job.session_id = session_recording.session_id
    WHERE recording_id = recording.id AND job.state IN ('queued', 'running')
  )`;

const LOOK_EVERY_MS = 600_000;
const TIDY_EVERY_MS = 3_600_000;
/** A clock that was set by more makes old what is young: nothing is swept until that is old by any clock. */
const SET_MS = 5_000;

/** Frees the space of bytes that nothing refers to any more, and of what can be made again when the disk is nearly full. */
@Injectable()
export class StoreKeeper implements OnApplicationBootstrap, OnModuleDestroy {
  #timer: NodeJS.Timeout | undefined;
  #tidyTimer: NodeJS.Timeout | undefined;
  #aheadMs = Date.now() - performance.now();
  #setAtMs = -Infinity;

  constructor(
    private readonly dataSource: DataSource,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onApplicationBootstrap(): void {
    void this.tidy();
    if (!this.config.serves) return;
    this.#tidyTimer = setInterval(() => void this.tidy(), TIDY_EVERY_MS);
    const look = (): void => void this.#keepFree().catch((error: unknown) => log.warn({ err: error }, 'could not make room'));
    this.#timer = setInterval(look, LOOK_EVERY_MS);
    look();
  }

  onModuleDestroy(): void {
    clearInterval(this.#timer);
    clearInterval(this.#tidyTimer);
  }

  /** As the store's own, when what can be made again has made room. @throws {MediaError} `file-large`, `disk-full` */
  async requireRoom(expectedBytes: number | undefined): Promise<void> {
    try {
      await this.store.requireRoom(expectedBytes);
    } catch (error) {
      if (!(error instanceof MediaError) || error.code !== 'disk-full' || (await this.#makeRoom(expectedBytes!)) === 0) throw error;
      await this.store.requireRoom(expectedBytes);
    }
  }

  async #keepFree(): Promise<void> {
    const missing = missingRoom(await this.store.space(), this.config.keepFreeBytes);
    if (missing > 0) await this.#makeRoom(missing);
  }

  /** @returns bytes that became free */
  async #makeRoom(wantedBytes: number): Promise<number> {
    const freedBytes = await this.#unlessBackup(async (manager) => {
      const rows = (await manager.query(MADE_AGAIN)) as { sha: string }[];
      return this.store.letGo(
        rows.map(({ sha }) => sha),
        wantedBytes,
      );
    });
    if (freedBytes > 0) log.info({ bytes: freedBytes }, 'samples that can be made again have made room');
    return freedBytes;
  }

  /** While a backup is made everything stays where it is. */
  #unlessBackup(work: (manager: EntityManager) => Promise<number>): Promise<number> {
    return this.dataSource.transaction(async (manager) => {
      const [{ free }] = (await manager.query('SELECT pg_try_advisory_xact_lock_shared($1) AS free', [STORE_LOCK])) as [{ free: boolean }];
      return free ? work(manager) : 0;
    });
  }

  /** Whether the clock of this machine was set lately. */
  #wasSet(): boolean {
    const aheadMs = Date.now() - performance.now();
    if (Math.abs(aheadMs - this.#aheadMs) > SET_MS) this.#setAtMs = performance.now();
    this.#aheadMs = aheadMs;
    return performance.now() - this.#setAtMs < YOUNG_MS;
  }

  /** Frees bytes that nothing refers to any more, at once; while a backup is made that is left to a later sweep. */
  async free(shas: readonly string[]): Promise<void> {
    await this.#unlessBackup(async (manager) => {
      const kept = new Set(((await manager.query(REFERENCED)) as { sha: string | null }[]).map(({ sha }) => sha));
      const freed = shas.filter((sha) => !kept.has(sha));
      await this.store.remove(freed);
      return freed.length;
    });
  }

  /** Never fails: what could not be freed now is freed another time. */
  async tidy(): Promise<void> {
    try {
      if (this.#wasSet()) return log.warn('the clock of this machine was set: nothing is tidied away for a quarter of an hour');
      const freed = await this.#unlessBackup(async (manager) => {
        const rows = (await manager.query(REFERENCED)) as { sha: string | null }[];
        return this.store.sweep(new Set(rows.flatMap(({ sha }) => sha ?? [])));
      });
      if (freed > 0) log.info({ files: freed }, 'space freed');
    } catch (error) {
      log.warn({ err: error }, 'could not tidy the store');
    }
  }
}
