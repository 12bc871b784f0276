import { Inject, Injectable, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import type { JobEvent, TalkEvent } from '@euphonos/contracts';
import pg from 'pg';
import { Subject } from 'rxjs';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { log } from '../log.js';

/** Channel of LISTEN / NOTIFY: any process with the same database hears what any other one reports. */
export const CHANNEL = 'euphonos_job';
/** The same for what people say of a session to each other. */
export const TALK_CHANNEL = 'euphonos_talk';
const RETRY_MS = 1000;

/** Brings the events of all workers to this server's pages. */
@Injectable()
export class EventsService implements OnModuleInit, OnModuleDestroy {
  readonly jobs = new Subject<JobEvent>();
  readonly talk = new Subject<TalkEvent>();
  #client: pg.Client | undefined;
  #closing = false;

  constructor(@Inject(SERVER_CONFIG) private readonly config: ServerConfig) {}

  async onModuleInit(): Promise<void> {
    await this.#connect();
  }

  async #connect(): Promise<void> {
    if (this.#closing) return;
    const client = new pg.Client({ connectionString: this.config.databaseUrl });
    client.on('error', () => undefined);
    client.on('end', () => setTimeout(() => void this.#connect(), RETRY_MS).unref());
    client.on('notification', ({ channel, payload }) => this.#tell(channel, payload));
    try {
      await client.connect();
      await client.query(`LISTEN ${CHANNEL}; LISTEN ${TALK_CHANNEL}`);
      this.#client = client;
    } catch (error) {
      log.warn({ err: error }, 'no connection for events, trying again');
      client.end().catch(() => undefined);
    }
  }

  #tell(channel: string, payload: string | undefined): void {
    if (!payload) return;
    if (channel === CHANNEL) this.jobs.next(JSON.parse(payload) as JobEvent);
    else this.talk.next(JSON.parse(payload) as TalkEvent);
  }

  async onModuleDestroy(): Promise<void> {
    this.#closing = true;
    this.jobs.complete();
    this.talk.complete();
    await this.#client?.end().catch(() => undefined);
  }
}
