import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { log } from '../log.js';
import { SessionListService } from './session-list.service.js';
import { SessionsService } from './sessions.service.js';

const EVERY_MS = 6 * 3600 * 1000;

/** Forgets what was deleted long ago: at the start and a few times a day. */
@Injectable()
export class TrashKeeper implements OnApplicationBootstrap, OnApplicationShutdown {
  #timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly rows: SessionListService,
    private readonly sessions: SessionsService,
  ) {}

  onApplicationBootstrap(): void {
    this.#timer = setInterval(() => void this.empty(), EVERY_MS);
    this.#timer.unref();
    void this.empty();
  }

  onApplicationShutdown(): void {
    clearInterval(this.#timer);
  }

  /** Never fails: what could not be forgotten now goes another time. */
  async empty(): Promise<void> {
    try {
      for (const id of await this.rows.overdue()) {
        await this.sessions.forget(id);
        log.info({ id }, 'deleted session forgotten');
      }
    } catch (error) {
      log.warn({ err: error }, 'could not forget deleted sessions');
    }
  }
}
