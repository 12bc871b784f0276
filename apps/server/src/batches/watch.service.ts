import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource, IsNull, Not } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { log } from '../log.js';
import { cleanName } from '../recordings/recording-view.js';
import { IntakeService } from '../recordings/intake.service.js';
import { RendersService } from '../renders/renders.service.js';
import { BatchEntity, BatchItemEntity } from './batch.entity.js';
import { shaOfFile } from '../media-store/directory-store.js';
import { UNSENT } from './batch-queries.js';
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
    private readonly intake: IntakeService,
    private readonly renders: RendersService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onApplicationBootstrap(): void {
    this.#timer = setInterval(() => void this.#look(), LOOK_MS);
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
      // Killed between taking it in and putting it away: it is known by its name and its bytes.
      if (!(await this.#isTaken(batch, name, await shaOfFile(path))))
        await this.intake.bringIn(name, createReadStream(path), (await stat(path)).size, { batchId: batch.id, madeBy: batch.madeBy });
      await folder.putAway(name);
    }
    await this.#putOut(batch, folder);
    this.#told.delete(batch.id);
  }

  async #isTaken({ id }: BatchEntity, name: string, sha: string): Promise<boolean> {
    const rows = (await this.dataSource.query(
      `SELECT 1 FROM batch_item JOIN session_recording USING (session_id) JOIN recording ON recording.id = recording_id
       WHERE batch_id = $1 AND file_name = $2 AND original_sha = $3 LIMIT 1`,
      [id, cleanName(name), sha],
    )) as unknown[];
    return rows.length > 0;
  }

  /** Results that do not lie in the folder yet: whatever was killed meanwhile, each comes, once. */
  async #putOut({ id }: BatchEntity, folder: WatchedFolder): Promise<void> {
    const rows = (await this.dataSource.query(UNSENT, [id])) as { readonly session_id: string; readonly render_id: string }[];
    for (const { session_id: sessionId, render_id: renderId } of rows) {
      const { path, fileName } = await this.renders.file(renderId);
      await folder.result(path, fileName);
      await this.dataSource.manager.update(BatchItemEntity, { sessionId }, { putOut: renderId });
    }
  }

  /** Said once, not at every look. Nothing of the folder is lost; one that was removed is made anew. */
  #tell({ id, folder }: BatchEntity, error: unknown): void {
    this.#folders.delete(id);
    if (!this.#told.has(id)) log.warn({ err: error, folder }, 'a watched folder could not be read');
    this.#told.add(id);
  }
}
