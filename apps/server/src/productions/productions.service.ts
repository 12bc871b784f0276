import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { ChangeProduction, ProductionView } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { notFound } from '../problems/app-problem.js';
import { ProductionEntity } from './production.entity.js';

/** Productions, and how many sessions each holds. */
@Injectable()
export class ProductionsService {
  constructor(private readonly dataSource: DataSource) {}

  /** By name, those that are put away at the end. */
  async list(): Promise<ProductionView[]> {
    return (await this.dataSource.query(`
      SELECT production.id, production.name, archived_at IS NOT NULL AS archived,
        (SELECT count(*)::int FROM session WHERE production_id = production.id AND deleted_at IS NULL) AS sessions
      FROM production ORDER BY archived_at IS NOT NULL, lower(production.name), production.id`)) as ProductionView[];
  }

  async make(name: string): Promise<ProductionView> {
    const { manager } = this.dataSource;
    const { id } = await manager.save(manager.create(ProductionEntity, { id: randomUUID(), name, archivedAt: null }));
    return { id, name, sessions: 0, archived: false };
  }

  async change(id: string, { name, archived }: ChangeProduction): Promise<ProductionView> {
    await this.#require(id);
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
