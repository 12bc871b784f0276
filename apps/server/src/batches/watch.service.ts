import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource, IsNull, Not } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { EventsService } from '../events/events.service.js';
import { log } from '../log.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { RendersService } from '../renders/renders.service.js';
import { BatchEntity, BatchItemEntity } from './batch.entity.js';
import { WatchedFolder } from './watched-folder.js';

const LOOK_MS = 2000;

/** Takes what is put into the folders of batches that watch one, and writes results beside it. */
@Injectable()
export class WatchService implements OnApplicationBootstrap, OnModuleDestroy {
  readonly #folders = new Map<string, WatchedFolder>();
  readonly #told = new Set<string>();
  #timer: NodeJS.Timeout | undefined;
  #busy = false;

  constructor(
    private readonly dataSource: DataSource,
    private readonly events: EventsService,
    private readonly recordings: RecordingsService,
    private readonly renders: RendersService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onApplicationBootstrap(): void {
    this.#timer = setInterval(() => void this.#look(), LOOK_MS);
    this.events.jobs.subscribe(({ job, sessionId, subjectId }) => {
      if (job.kind !== 'render' || job.state !== 'done') return;
      this.#deliver(sessionId, subjectId).catch((error: unknown) => log.warn({ err: error }, 'a result was not written to its folder'));
    });
  }

  onModuleDestroy(): void {
    clearInterval(this.#timer);
  }

  async #folderOf({ id, folder }: BatchEntity): Promise<WatchedFolder> {
    const known = this.#folders.get(id);
    if (known) return known;
    const made = new WatchedFolder(join(this.config.inboxFolder, folder!));
    await made.make();
    this.#folders.set(id, made);
    return made;
  }

  async #look(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    try {
      for (const batch of await this.dataSource.manager.findBy(BatchEntity, { folder: Not(IsNull()) }))
        // One that cannot be read does not hold up the others.
        await this.#lookInto(batch).catch((error: unknown) => this.#tell(batch, error));
    } catch {
      // The database is away: the next look tries again.
    } finally {
      this.#busy = false;
    }
  }

  async #lookInto(batch: BatchEntity): Promise<void> {
    const folder = await this.#folderOf(batch);
    for (const name of await folder.ready()) {
      const path = join(folder.path, name);
      await this.recordings.bringIn(name, createReadStream(path), (await stat(path)).size, { batchId: batch.id });
      await folder.putAway(name);
    }
    this.#told.delete(batch.id);
  }

  /** Said once, not at every look. Nothing of the folder is lost; one that was removed is made anew. */
  #tell({ id, folder }: BatchEntity, error: unknown): void {
    this.#folders.delete(id);
    if (!this.#told.has(id)) log.warn({ err: error, folder }, 'a watched folder could not be read');
    this.#told.add(id);
  }

  async #deliver(sessionId: string, renderId: string): Promise<void> {
    const item = await this.dataSource.manager.findOneBy(BatchItemEntity, { sessionId });
    const batch = item && (await this.dataSource.manager.findOneBy(BatchEntity, { id: item.batchId, folder: Not(IsNull()) }));
    if (!batch) return;
    const { path, fileName } = await this.renders.file(renderId);
    await (await this.#folderOf(batch)).result(path, fileName);
  }
}
