import { createHash } from 'node:crypto';
import { deserialize, serialize } from 'node:v8';
import { Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { partFramesAt } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import type { JobEntity } from '../jobs/job.entity.js';
import { log } from '../log.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { StoreKeeper } from '../media-store/store-keeper.js';
import type { HeldParts, PartMade, RenderTask } from '../workers/protocol.js';
import { codeKey } from './code-key.js';

interface Row {
  readonly parts: number;
  readonly key: string;
  readonly sha: string;
  readonly memories: Buffer | null;
}

/** Parts of long renders, so that one whose process was killed is gone on with by the next, to the same bits. */
@Injectable()
export class RenderParts implements OnApplicationBootstrap {
  constructor(
    private readonly dataSource: DataSource,
    private readonly keeper: StoreKeeper,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  /** What a process that was killed had no time for; the files go with the next sweep. */
  async onApplicationBootstrap(): Promise<void> {
    await this.dataSource.query(
      `DELETE FROM render_part USING render JOIN job ON job.id = job_id WHERE render_id = render.id AND job.state NOT IN ('queued', 'running')`,
    );
  }

  /** Length of a part. */
  framesAt(sampleRateHz: number): number {
    return partFramesAt(sampleRateHz, this.config.partSeconds);
  }

  /** Names what a part is made of, and by what: of anything else it is made anew. */
  keyOf({ tracks, whole, wholeNoise, sampleRateHz }: Omit<RenderTask, 'port'>): string {
    const made = [codeKey(), this.framesAt(sampleRateHz), tracks.map(({ track, profile }) => [track, profile]), whole, wholeNoise];
    return createHash('sha256').update(JSON.stringify(made)).digest('hex');
  }

  /** What can be gone on with; null when there is nothing, or it is of something else. */
  async find(renderId: string, key: string): Promise<HeldParts | null> {
    const rows = (await this.dataSource.query('SELECT parts, key, sha, memories FROM render_part WHERE render_id = $1 ORDER BY parts', [
      renderId,
    ])) as Row[];
    const whole = rows.every((row, i) => row.parts === i + 1 && row.key === key);
    const memories = rows.at(-1)?.memories;
    if (rows.length > 0 && whole && memories && (await this.#allThere(rows))) {
      log.info({ renderId, parts: rows.length }, 'render goes on');
      return { shas: rows.map(({ sha }) => sha), memories: deserialize(memories) as HeldParts['memories'] };
    }
    if (rows.length > 0) await this.dataSource.query('DELETE FROM render_part WHERE render_id = $1', [renderId]);
    return null;
  }

  async #allThere(rows: readonly Row[]): Promise<boolean> {
    for (const { sha } of rows) if (!(await this.store.has(sha))) return false;
    return true;
  }

  /**
   * Notes a part, as long as the job is this worker's. Memories of earlier ones are of no use any more.
   * @throws {MediaError} `cancelled` when somebody else is at it
   */
  async keep(job: JobEntity, key: string, { parts, sha, memories }: PartMade): Promise<void> {
    await this.dataSource.transaction(async (manager) => {
      const claimed = (await manager.query(
        `SELECT FROM job WHERE id = $1 AND state = 'running' AND worker_id = $2 AND attempt = $3 FOR SHARE`,
        [job.id, job.workerId, job.attempt],
      )) as unknown[];
      if (claimed.length === 0) throw new MediaError('cancelled', 'Cancelled.');
      await manager.query('UPDATE render_part SET memories = NULL WHERE render_id = $1', [job.subjectId]);
      await manager.query('INSERT INTO render_part (render_id, parts, key, sha, memories) VALUES ($1, $2, $3, $4, $5)', [
        job.subjectId,
        parts,
        key,
        sha,
        serialize(memories),
      ]);
    });
  }

  /** Once nobody goes on with it, its parts make room. */
  async letGo(job: JobEntity): Promise<void> {
    const [rows] = (await this.dataSource.query(
      `DELETE FROM render_part USING job WHERE render_id = $1 AND job.id = $2 AND job.state NOT IN ('queued', 'running') RETURNING sha`,
      [job.subjectId, job.id],
    )) as [{ sha: string }[], number];
    if (rows.length > 0) await this.keeper.free(rows.map(({ sha }) => sha));
  }
}
