import { Inject, Injectable } from '@nestjs/common';
import type { RoomView } from '@euphonos/contracts';
import { formatBytes } from '@euphonos/engine';
import { DataSource, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { missingRoom } from '../media-store/room.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem } from '../problems/app-problem.js';
import { askerId } from '../rights/asker.js';

/** Recordings as they came, of sessions that somebody made; deleted ones count until they go for good. */
const OF_PERSON = `
  SELECT person.name, most_bytes::float8 AS most, (
    SELECT coalesce(sum(size_bytes), 0)::float8 FROM session JOIN session_recording ON session_id = session.id JOIN recording ON recording.id = recording_id
    WHERE session.made_by = person.id
  ) AS used FROM person WHERE id = $1`;
const OF_PRODUCTION = `
  SELECT production.name, most_bytes::float8 AS most, (
    SELECT coalesce(sum(size_bytes), 0)::float8 FROM session JOIN session_recording ON session_id = session.id JOIN recording ON recording.id = recording_id
    WHERE session.production_id = production.id
  ) AS used FROM production WHERE id = $1`;

interface Quota {
  readonly name: string;
  readonly most: number | null;
  readonly used: number;
}

/** How much people and productions may hold. What a microphone has recorded is taken in any case: it could not be had again. */
@Injectable()
export class QuotasService {
  constructor(
    private readonly dataSource: DataSource,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  /** Room for whoever asks. */
  async room(): Promise<RoomView> {
    const space = await this.store.space();
    const own = await this.#of(this.dataSource.manager, OF_PERSON, askerId());
    return {
      ...space,
      nearlyFull: missingRoom(space, this.config.keepFreeBytes) > 0,
      usedBytes: own?.used ?? null,
      mostBytes: own?.most ?? null,
    };
  }

  /**
   * Whether so many bytes more may come in for a person and into a production. Asked before the first byte comes, and again in the
   * transaction that keeps them, where `moreBytes` is 0: two that come at once do not pass each other by.
   * @throws {AppProblem} `quota-person`, `quota-production`
   */
  async require(given: EntityManager | null, personId: string | null, productionId: string | null, moreBytes: number): Promise<void> {
    const manager = given ?? this.dataSource.manager;
    for (const [id, query] of [
      [personId, OF_PERSON],
      [productionId, OF_PRODUCTION],
    ] as const) {
      if (id === null) continue;
      if (moreBytes === 0) await manager.query('SELECT pg_advisory_xact_lock(hashtext($1))', [`quota ${id}`]);
      const quota = await this.#of(manager, query, id);
      if (!quota || quota.most === null || quota.used + moreBytes <= quota.most) continue;
      const of = query === OF_PERSON ? 'You hold' : `The production "${quota.name}" holds`;
      throw new AppProblem(
        507,
        query === OF_PERSON ? 'quota-person' : 'quota-production',
        `${of} ${formatBytes(moreBytes === 0 ? quota.used : quota.used + moreBytes)} with this, of ${formatBytes(quota.most)} that an owner has set. Nothing was kept of it. Delete sessions for good that are not needed, or ask an owner for more room.`,
        { usedBytes: quota.used, mostBytes: quota.most },
      );
    }
  }

  async #of(manager: EntityManager, query: string, id: string | null): Promise<Quota | null> {
    if (id === null) return null;
    const [row] = (await manager.query(query, [id])) as Quota[];
    return row ?? null;
  }
}
