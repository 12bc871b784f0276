import { createReadStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from './config.js';
import { log } from './log.js';
import { RecordingsService } from './recordings/recordings.service.js';
import { SessionEntity } from './sessions/session.entity.js';

const DEMO_NAME = 'The Tidemill Tour';
/** Brought in last, and so first in the list. */
const FIRST = 'narrator.flac';

/** Brings in the demo when there is no session at all: on the first start. */
@Injectable()
export class DemoService implements OnApplicationBootstrap {
  constructor(
    private readonly dataSource: DataSource,
    private readonly recordings: RecordingsService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const { demoFolder } = this.config;
    if (!demoFolder || (await this.dataSource.manager.count(SessionEntity)) > 0) return;
    const files = (await readdir(demoFolder).catch(() => [])).filter((name) => name.endsWith('.flac'));
    for (const name of [...files.filter((file) => file !== FIRST), ...files.filter((file) => file === FIRST)]) {
      const { sessionId } = await this.recordings.bringIn(name, createReadStream(join(demoFolder, name)), undefined);
      await this.dataSource.manager.update(SessionEntity, { id: sessionId }, { name: `${DEMO_NAME} · ${name.replace('.flac', '')}` });
      log.info({ name }, 'demo brought in');
    }
  }
}
