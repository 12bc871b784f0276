import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { ChangeProduction, ProductionView } from '@euphonos/contracts';
import { DataSource, type EntityManager } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { asker, askerId, seesAll } from '../rights/asker.js';
import { ProductionEntity } from './production.entity.js';

/** A production is worked on by whoever made it, until they are taken off. */
export async function shareWithMaker(manager: EntityManager, productionId: string): Promise<void> {
  const personId = askerId();
  if (personId)
    await manager.query(`INSERT INTO production_person (production_id, person_id, share) VALUES ($1, $2, 'engineer')`, [
      productionId,
      personId,
    ]);
}

/** Productions, and how many sessions each holds. */
@Injectable()
export class ProductionsService {
  constructor(private readonly dataSource: DataSource) {}

  /** By name, those that are put away at the end. */
  async list(): Promise<ProductionView[]> {
    return (await this.dataSource.query(
      `
      SELECT production.id, production.name, archived_at IS NOT NULL AS archived,
        (SELECT count(*)::int FROM session WHERE production_id = production.id AND deleted_at IS NULL) AS sessions,
        CASE WHEN $2 OR (mine.share = 'engineer' AND $3) THEN 'change' ELSE 'hear' END AS may,
        (SELECT count(*)::int FROM production_person WHERE production_id = production.id AND person_id IS DISTINCT FROM $1::uuid) AS "sharedWith", most_bytes::float8 AS "mostBytes",
        (SELECT coalesce(sum(size_bytes), 0)::float8 FROM session JOIN session_recording ON session_id = session.id JOIN recording ON recording.id = recording_id
          WHERE production_id = production.id) AS "usedBytes"
      FROM production LEFT JOIN production_person AS mine ON mine.production_id = production.id AND mine.person_id = $1::uuid
      WHERE $2 OR mine.person_id IS NOT NULL ORDER BY archived_at IS NOT NULL, lower(production.name), production.id`,
      [askerId(), seesAll(), asker()?.role !== 'listener'],
    )) as ProductionView[];
  }

  async make(name: string): Promise<ProductionView> {
    const id = await this.dataSource.transaction(async (inside) => {
      const made = await inside.save(inside.create(ProductionEntity, { id: randomUUID(), name, archivedAt: null }));
      await shareWithMaker(inside, made.id);
      return made.id;
    });
    return { id, name, sessions: 0, archived: false, may: 'change', sharedWith: 0, usedBytes: 0, mostBytes: null };
  }

  async change(id: string, { name, archived, mostBytes }: ChangeProduction): Promise<ProductionView> {
    await this.#require(id);
    if (mostBytes !== undefined) {
      if (!seesAll()) throw new AppProblem(403, 'no-right', 'How much a production may hold is set by owners. Nothing was changed.');
      await this.dataSource.query('UPDATE production SET most_bytes = $2 WHERE id = $1', [id, mostBytes]);
    }
    if (name !== undefined || archived !== undefined)
      await this.dataSource.manager.update(
        ProductionEntity,
        { id },
        { ...(name === undefined ? {} : { name }), ...(archived === undefined ? {} : { archivedAt: archived ? new Date() : null }) },
      );
    return (await this.list()).find((production) => production.id === id)!;
  }

  /** Its sessions stay, in no production. */
  async remove(id: string): Promise<void> {
    await this.#require(id);
    await this.dataSource.manager.delete(ProductionEntity, { id });
  }

  async #require(id: string): Promise<void> {
    if (!(await this.dataSource.manager.existsBy(ProductionEntity, { id }))) throw notFound('production');
  }
}
