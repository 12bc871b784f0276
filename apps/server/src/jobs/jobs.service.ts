import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { JobKind, Problem } from '@euphonos/contracts';
import { MediaError } from '@euphonos/media';
import PgBoss from 'pg-boss';
import { DataSource, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { CHANNEL, EventsService } from '../events/events.service.js';
import { inLogContext } from '../log-context.js';
import { log } from '../log.js';
import { answerTo, couldNotTake } from '../problems/problem.filter.js';
import { AppProblem } from '../problems/app-problem.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { MetricsService } from '../state/metrics.service.js';
import { JobEntity, jobView } from './job.entity.js';
import { isLost, openJobs } from './lost.js';
import { nextInTurn } from './turns.js';

export interface JobControl {
  readonly signal: AbortSignal;
  /** Nobody waits for it. */
  readonly later: boolean;
  progress(share: number): void;
}

/** How a kind of job is done. */
export interface JobHandler<Result> {
  /** The work itself. Long, cancellable, may run again after a crash: it changes nothing that others see. */
  run(job: JobEntity, control: JobControl): Promise<Result>;
  /** Writes the result, in the transaction that ends the job. */
  store(manager: EntityManager, job: JobEntity, result: Result): Promise<JobEntity[] | void>;
  /** Writes what follows from its failure, likewise. Jobs that are returned are announced afterwards. */
  failed?(manager: EntityManager, job: JobEntity): Promise<JobEntity[] | void>;
  /** Afterwards, however an attempt came to its end: what is of no use any more goes. */
  after?(job: JobEntity): Promise<void>;
}

const HEARTBEAT_MS = 2000;
const SWEEP_MS = 3000;
const PROGRESS_MS = 200;
/** So many of one kind at once, of what somebody waits for; of the rest one. */
const AT_ONCE = 2;

/** Where a job waits: what somebody waits for stands in a queue of its own, so that a thousand others do not hold it up. */
const queueOf = ({ kind, later }: Pick<JobEntity, 'kind' | 'later'>): string => `${later ? 'later' : 'now'}.${kind}`;
/** What is not there yet, or just now: the work waits for it. */
const WAITS: ReadonlySet<string> = new Set(['store-away', 'samples-away']);
const MOST_ATTEMPTS = 5;

/**
 * Runs jobs. pg-boss hands them out; the table `job` decides: a worker claims a queued job, renews its
 * heartbeat, and ends it in one transaction that only counts if the claim still stands. So a killed worker loses
 * nothing: the sweep of any other process, or of the next start, queues the job again, and its result is
 * written once.
 */
@Injectable()
export class JobsService implements OnApplicationBootstrap, OnModuleDestroy {
  readonly #workerId: string;
  readonly #handlers = new Map<JobKind, JobHandler<unknown>>();
  readonly #running = new Map<string, AbortController>();
  readonly #boss: PgBoss;
  #sweeper: NodeJS.Timeout | undefined;
  #closing = false;

  constructor(
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
    private readonly dataSource: DataSource,
    private readonly events: EventsService,
    private readonly metrics: MetricsService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {
    this.#workerId = `${config.workerName}/${process.pid}/${randomUUID()}`;
    this.#boss = new PgBoss({ connectionString: config.databaseUrl, max: 4 });
    this.#boss.on('error', (error) => log.warn({ err: error }, 'queue'));
  }

  register<Result>(kind: JobKind, handler: JobHandler<Result>): void {
    this.#handlers.set(kind, handler as JobHandler<unknown>);
  }

  async onApplicationBootstrap(): Promise<void> {
    await this.#boss.start();
    for (const kind of this.#handlers.keys())
      for (const later of [false, true]) {
        const queue = queueOf({ kind, later });
        // However often one is announced, it waits there once.
        await this.#boss.createQueue(queue, { name: queue, policy: 'short' });
        for (let i = 0; this.config.works && i < (later ? 1 : AT_ONCE); i++)
          await this.#boss.work<{ jobId: string }>(queue, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([message]) => {
            if (!message) return;
            if (!later) return void (await this.#work(message.data.jobId));
            // Each message stands for one that waits, whichever is next; another worker may be a moment quicker.
            for (let id = await nextInTurn(this.dataSource, kind); id && !(await this.#work(id));)
              id = await nextInTurn(this.dataSource, kind);
          });
      }
    this.events.jobs.subscribe(({ job }) => job.state === 'cancelled' && this.#running.get(job.id)?.abort());
    await this.#sweep();
    this.#sweeper = setInterval(() => void this.#sweep().catch((error: unknown) => log.warn({ err: error }, 'sweep')), SWEEP_MS);
  }

  /** In an orderly stop, running jobs go back into the queue at once; the database and the threads are still there. */
  async onModuleDestroy(): Promise<void> {
    this.#closing = true;
    clearInterval(this.#sweeper);
    for (const controller of this.#running.values()) controller.abort();
    await this.dataSource
      .query(`UPDATE job SET state = 'queued', worker_id = NULL, progress = 0 WHERE state = 'running' AND worker_id = $1`, [this.#workerId])
      .catch(() => undefined);
    await this.dataSource.query('DELETE FROM worker WHERE id = $1', [this.#workerId]).catch(() => undefined);
    await this.#boss.stop({ graceful: false, wait: false }).catch(() => undefined);
  }

  /**
   * Makes a job inside the caller's transaction; call `announce` when that is through.
   * @param later nobody waits for it: it comes after whatever somebody waits for
   */
  async create(manager: EntityManager, kind: JobKind, sessionId: string, subjectId: string, later = false): Promise<JobEntity> {
    return manager.save(manager.create(JobEntity, { kind, sessionId, subjectId, later, state: 'queued', progress: 0, attempt: 0 }));
  }

  async announce(job: Pick<JobEntity, 'id' | 'kind' | 'later'>): Promise<void> {
    await this.#boss.send(queueOf(job), { jobId: job.id }, { singletonKey: job.id });
  }

  /** Ends a queued or running job for good. @throws {AppProblem} `job-over` when it has already ended */
  async cancel(jobId: string): Promise<void> {
    const problem: Problem = { code: 'cancelled', message: 'Cancelled.' };
    const [, changed] = (await this.dataSource.query(
      `UPDATE job SET state = 'cancelled', problem = $2 WHERE id = $1 AND state IN ('queued', 'running')`,
      [jobId, problem],
    )) as [unknown, number];
    if (changed === 0) throw new AppProblem(409, 'job-over', 'It has already ended; there is nothing to cancel.');
    this.#running.get(jobId)?.abort();
    await this.publish(await this.dataSource.manager.findOneByOrFail(JobEntity, { id: jobId }));
  }

  /** @returns whether it was there to be done */
  #work(jobId: string): Promise<boolean> {
    return inLogContext({ jobId }, () => this.#claimAndRun(jobId));
  }

  async #claimAndRun(jobId: string): Promise<boolean> {
    const [rows] = (await this.dataSource.query(
      `UPDATE job SET state = 'running', worker_id = $2, attempt = attempt + 1, heartbeat_at = now(), progress = 0
       WHERE id = $1 AND state = 'queued' RETURNING id`,
      [jobId, this.#workerId],
    )) as [unknown[], number];
    if (rows.length === 0) return false;
    const controller = new AbortController();
    this.#running.set(jobId, controller);
    const heartbeat = setInterval(() => {
      this.dataSource
        .query(`UPDATE job SET heartbeat_at = now() WHERE id = $1 AND worker_id = $2`, [jobId, this.#workerId])
        .catch(() => undefined);
    }, HEARTBEAT_MS);
    let job: JobEntity | undefined;
    // Whatever fails from here on, it is not at work any more afterwards: the sweep gives it to somebody again.
    try {
      job = await this.dataSource.manager.findOneByOrFail(JobEntity, { id: jobId });
      // Cancelled in this very moment.
      if (job.state !== 'running') return true;
      if (job.attempt === 1) this.metrics.jobStarted(job.kind, (Date.now() - job.createdAt.getTime()) / 1000);
      await this.publish(job);
      await this.#runAndStore(job, controller.signal);
    } finally {
      clearInterval(heartbeat);
      this.#running.delete(jobId);
      if (job && !this.#closing)
        await this.#handlers
          .get(job.kind)!
          .after?.(job)
          .catch((error: unknown) => log.warn({ err: error }, 'after a job'));
    }
    return true;
  }

  async #runAndStore(job: JobEntity, signal: AbortSignal): Promise<void> {
    const handler = this.#handlers.get(job.kind)!;
    const startMs = performance.now();
    const ended = (outcome: 'done' | 'failed' | 'given-back'): void => {
      const seconds = (performance.now() - startMs) / 1000;
      this.metrics.jobEnded(job.kind, outcome, seconds);
      log.info({ kind: job.kind, attempt: job.attempt, outcome, ms: Math.round(seconds * 1000) }, 'job');
    };
    let reportedAt = 0;
    const progress = (share: number): void => {
      if (Date.now() - reportedAt < PROGRESS_MS) return;
      reportedAt = Date.now();
      job.progress = share;
      void this.publish(job).catch(() => undefined);
    };
    try {
      const result = await this.store.holding(() => handler.run(job, { signal, later: job.later, progress }));
      await this.#end(job, 'done', null, (manager) => handler.store(manager, job, result));
      ended('done');
    } catch (error) {
      // The database may be back for the very next question: what it could not take is no failure of the work, and is done again.
      const wasAway = couldNotTake(error) && (error as { code?: string }).code !== 'ENOENT';
      if (this.#closing || (error instanceof MediaError && error.code === 'cancelled')) return ended('given-back');
      if (wasAway || (error instanceof MediaError && WAITS.has(error.code))) {
        log.warn({ err: error, kind: job.kind }, 'work waits');
        // Where that cannot be written down either, the sweep finds it.
        await this.#giveBack(job).catch(() => undefined);
        return ended('given-back');
      }
      ended('failed');
      const { code, message } = answerTo(error);
      await this.#end(job, 'failed', { code, message }, async (manager) => handler.failed?.(manager, job));
    }
  }

  /** It waits again, as if it had not been begun. */
  async #giveBack(job: JobEntity): Promise<void> {
    const [, changed] = (await this.dataSource.query(
      `UPDATE job SET state = 'queued', worker_id = NULL, progress = 0, attempt = attempt - 1 WHERE id = $1 AND state = 'running' AND worker_id = $2 AND attempt = $3`,
      [job.id, this.#workerId, job.attempt],
    )) as [unknown, number];
    if (changed === 1) await this.publish({ ...job, state: 'queued', progress: 0 });
  }

  /** Ends the job if this worker's claim still stands, together with its result. */
  async #end(
    job: JobEntity,
    state: 'done' | 'failed',
    problem: Problem | null,
    store: (manager: EntityManager) => Promise<JobEntity[] | void>,
  ): Promise<void> {
    let next: readonly JobEntity[] = [];
    const ended = await this.dataSource.transaction(async (manager) => {
      const [, changed] = (await manager.query(
        `UPDATE job SET state = $4, problem = $5, progress = 1 WHERE id = $1 AND state = 'running' AND worker_id = $2 AND attempt = $3`,
        [job.id, this.#workerId, job.attempt, state, problem],
      )) as [unknown, number];
      if (changed === 1) next = (await store(manager)) ?? [];
      return changed === 1;
    });
    if (ended) await this.publish({ ...job, state, problem, progress: 1 });
    for (const follower of next) await this.announce(follower);
  }

  /** Tells everybody how a job stands. */
  async publish(job: JobEntity): Promise<void> {
    const event = { job: jobView(job), sessionId: job.sessionId, subjectId: job.subjectId };
    await this.dataSource.query(`SELECT pg_notify($1, $2)`, [CHANNEL, JSON.stringify(event)]);
  }

  /** Queues again what a lost worker held, and what was queued without anybody having been told. By the clock of the database, which all share. */
  async #sweep(): Promise<void> {
    if (this.#closing) return;
    await this.#sayHere();
    for (const job of await openJobs(this.dataSource)) {
      if (job.state === 'running' && !isLost(job, this.#workerId, this.#running)) continue;
      if (job.state === 'running') {
        const next = job.attempt >= MOST_ATTEMPTS ? 'failed' : 'queued';
        const problem: Problem | null =
          next === 'failed'
            ? {
                code: 'worker-lost',
                message: `The work was started ${MOST_ATTEMPTS} times and its process ended each time. Nothing else is touched; see the log.`,
              }
            : null;
        await this.dataSource.query(
          `UPDATE job SET state = $3, problem = $4, worker_id = NULL WHERE id = $1 AND state = 'running' AND attempt = $2`,
          [job.id, job.attempt, next, problem],
        );
      }
      await this.announce(job);
    }
  }

  /** For the page *State*: who works, and who has not been heard of for long is forgotten. */
  async #sayHere(): Promise<void> {
    await this.dataSource.query(
      `INSERT INTO worker (id, name, serves) VALUES ($1, $2, $3) ON CONFLICT (id) DO UPDATE SET seen_at = now()`,
      [this.#workerId, this.config.workerName, this.config.serves],
    );
    await this.dataSource.query(`DELETE FROM worker WHERE seen_at < now() - interval '1 minute'`);
  }
}
