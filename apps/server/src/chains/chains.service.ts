import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { ChainView, ChangeChain } from '@euphonos/contracts';
import { parseChainFile } from '@euphonos/engine';
import { DataSource } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { askerId, seesAll } from '../rights/asker.js';
import { ChainEntity } from './chain.entity.js';

const view = ({ id, file, forNew, updatedAt }: ChainEntity): ChainView => ({
  id,
  file,
  forNew,
  updatedAt: updatedAt.toISOString(),
});

/** Chains that were kept, of all sessions. */
@Injectable()
export class ChainsService {
  constructor(private readonly dataSource: DataSource) {}

  async list(): Promise<ChainView[]> {
    return (await this.dataSource.manager.find(ChainEntity, { order: { name: 'ASC', id: 'ASC' } })).map(view);
  }

  async find(id: string): Promise<ChainEntity> {
    const chain = await this.dataSource.manager.findOneBy(ChainEntity, { id });
    if (!chain) throw notFound('chain');
    return chain;
  }

  /** @throws {EngineError | DspError} when it cannot be read */
  async keep(given: unknown): Promise<ChainView> {
    const file = parseChainFile(given);
    const { manager } = this.dataSource;
    return view(
      await manager.save(
        manager.create(ChainEntity, { id: randomUUID(), name: file.name, file, forNew: false, madeBy: askerId(), updatedAt: new Date() }),
      ),
    );
  }

  async change(id: string, { name, note, file: given, forNew }: ChangeChain): Promise<ChainView> {
    const known = await this.find(id);
    if (forNew !== undefined && !seesAll())
      throw new AppProblem(403, 'no-right', 'The chain for what comes in holds for everybody here; an owner sets it. Nothing was changed.');
    const settings = given ? parseChainFile(given) : known.file;
    const file = parseChainFile({ ...settings, name: name ?? known.file.name, note: note ?? known.file.note });
    await this.dataSource.transaction(async (manager) => {
      // One at a time.
      if (forNew) await manager.update(ChainEntity, { forNew: true }, { forNew: false });
      await manager.update(
        ChainEntity,
        { id },
        { name: file.name, file, updatedAt: new Date(), ...(forNew === undefined ? {} : { forNew }) },
      );
    });
    return view(await this.find(id));
  }

  async remove(id: string): Promise<void> {
    await this.find(id);
    await this.dataSource.manager.delete(ChainEntity, { id });
  }
}
