import { readFile } from 'node:fs/promises';
import { Inject, Injectable } from '@nestjs/common';
import type { BackupState, FailedWork, HealthView, RoomState, StateView, WorkState, WorkerState } from '@euphonos/contracts';
import { ffmpegVersion } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { fromRoot, SERVER_CONFIG, type ServerConfig } from '../config.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';

const MOST_FAILED = 20;
/** Looking through the store takes a while where it holds many files. */
const ROOM_KEPT_MS = 30_000;

const WORK = `
  SELECT kind, count(*) FILTER (WHERE state = 'queued')::int AS queued, count(*) FILTER (WHERE state = 'running')::int AS running,
         coalesce(extract(epoch FROM now() - min(created_at) FILTER (WHERE state = 'queued')), 0)::float AS "longestWaitSeconds"
  FROM job WHERE state IN ('queued', 'running') GROUP BY kind ORDER BY kind`;
const WORKERS = `
  SELECT name, serves, started_at AS "startedAt", (SELECT count(*)::int FROM job WHERE worker_id = worker.id AND state = 'running') AS running
  FROM worker WHERE seen_at > now() - interval '30 seconds' ORDER BY serves DESC, name, started_at`;
const FAILED = `
  SELECT job.kind, job.created_at AS "createdAt", job.session_id AS "sessionId", session.name AS "sessionName", job.problem
  FROM job LEFT JOIN session ON session.id = job.session_id
  WHERE job.state = 'failed' AND job.created_at > now() - interval '7 days' ORDER BY job.created_at DESC LIMIT ${MOST_FAILED}`;

/** How the server is: what is at work, how much room there is, what it is made of. */
@Injectable()
export class StateService {
  readonly #startedAt = new Date().toISOString();
  #room: { readonly atMs: number; readonly state: RoomState } | undefined;
  #versions: Promise<StateView['versions']> | undefined;

  constructor(
    private readonly dataSource: DataSource,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  async state(): Promise<StateView> {
    const [work, workers, failed, room, backup, versions] = await Promise.all([
      this.dataSource.query(WORK) as Promise<WorkState[]>,
      this.dataSource.query(WORKERS) as Promise<WorkerState[]>,
      this.dataSource.query(FAILED) as Promise<FailedWork[]>,
      this.#roomState(),
      this.#backup(),
      (this.#versions ??= this.#readVersions()),
    ]);
    return { startedAt: this.#startedAt, work, workers, failed, room, backup, versions };
  }

  /** Never fails: what cannot be reached is told. */
  async health(): Promise<HealthView> {
    const holds = (work: Promise<unknown>): Promise<boolean> => work.then(() => true).catch(() => false);
    const [database, store] = await Promise.all([holds(this.dataSource.query('SELECT 1')), holds(this.store.check())]);
    return { healthy: database && store, database, store };
  }

  async #roomState(): Promise<RoomState> {
    if (this.#room && Date.now() - this.#room.atMs < ROOM_KEPT_MS) return this.#room.state;
    const shasOf = async (query: string): Promise<ReadonlySet<string>> =>
      new Set(((await this.dataSource.query(query)) as { sha: string }[]).map(({ sha }) => sha));
    const sources = await shasOf('SELECT original_sha AS sha FROM recording');
    const deliveries = await shasOf('SELECT file_sha AS sha FROM render WHERE file_sha IS NOT NULL');
    let [sourceBytes, madeBytes, deliveryBytes] = [0, 0, 0];
    for await (const { sha, sizeBytes } of this.store.list())
      if (sources.has(sha)) sourceBytes += sizeBytes;
      else if (deliveries.has(sha)) deliveryBytes += sizeBytes;
      else madeBytes += sizeBytes;
    const state = { ...(await this.store.space()), sourceBytes, madeBytes, deliveryBytes };
    this.#room = { atMs: Date.now(), state };
    return state;
  }

  async #backup(): Promise<BackupState | null> {
    try {
      return JSON.parse(await readFile(this.config.backupNote, 'utf8')) as BackupState;
    } catch {
      return null;
    }
  }

  async #readVersions(): Promise<StateView['versions']> {
    const [{ server_version: postgres }] = (await this.dataSource.query('SHOW server_version')) as [{ server_version: string }];
    const own = await readFile(fromRoot('apps/server/package.json'), 'utf8');
    const { version } = JSON.parse(own) as { version: string };
    return [
      { name: 'Euphonos', version },
      { name: 'Node.js', version: process.versions.node },
      { name: 'PostgreSQL', version: postgres.split(' ')[0]! },
      { name: 'ffmpeg', version: (await ffmpegVersion()) ?? 'not installed' },
    ];
  }
}
