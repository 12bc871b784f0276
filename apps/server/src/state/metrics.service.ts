import { Inject, Injectable } from '@nestjs/common';
import type { JobKind, JobState } from '@euphonos/contracts';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { DataSource } from 'typeorm';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';

const REQUEST_SECONDS = [0.005, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 5, 30];
const JOB_SECONDS = [0.5, 1, 2, 5, 10, 30, 60, 300, 1800, 7200];

/** Figures for whoever watches the server, in the text format of Prometheus (exposition format 0.0.4). */
@Injectable()
export class MetricsService {
  readonly #registry = new Registry();
  readonly #requests = new Histogram({
    name: 'euphonos_request_seconds',
    help: 'Time from the first byte of a request to the end of its answer.',
    labelNames: ['method', 'route', 'status'] as const,
    buckets: REQUEST_SECONDS,
    registers: [this.#registry],
  });
  readonly #jobs = new Histogram({
    name: 'euphonos_job_seconds',
    help: 'Time that a job was worked on.',
    labelNames: ['kind', 'outcome'] as const,
    buckets: JOB_SECONDS,
    registers: [this.#registry],
  });
  readonly #waits = new Histogram({
    name: 'euphonos_job_wait_seconds',
    help: 'Time that a job waited for its first start.',
    labelNames: ['kind'] as const,
    buckets: JOB_SECONDS,
    registers: [this.#registry],
  });

  constructor(dataSource: DataSource, @Inject(MEDIA_STORE) store: MediaStore) {
    collectDefaultMetrics({ register: this.#registry });
    new Gauge({
      name: 'euphonos_jobs',
      help: 'Jobs that wait or are worked on.',
      labelNames: ['kind', 'state'] as const,
      registers: [this.#registry],
      async collect() {
        this.reset();
        const rows = (await dataSource.query(
          `SELECT kind, state, count(*)::int AS count FROM job WHERE state IN ('queued', 'running') GROUP BY kind, state`,
        )) as { kind: JobKind; state: JobState; count: number }[];
        for (const { kind, state, count } of rows) this.set({ kind, state }, count);
      },
    });
    new Gauge({
      name: 'euphonos_store_free_bytes',
      help: 'Bytes that are free where recordings lie.',
      registers: [this.#registry],
      async collect() {
        this.set((await store.space()).freeBytes);
      },
    });
  }

  request(method: string, route: string, status: number, seconds: number): void {
    this.#requests.observe({ method, route, status: `${Math.floor(status / 100)}xx` }, seconds);
  }

  jobStarted(kind: JobKind, waitedSeconds: number): void {
    this.#waits.observe({ kind }, waitedSeconds);
  }

  jobEnded(kind: JobKind, outcome: 'done' | 'failed' | 'given-back', seconds: number): void {
    this.#jobs.observe({ kind, outcome }, seconds);
  }

  get contentType(): string {
    return this.#registry.contentType;
  }

  text(): Promise<string> {
    return this.#registry.metrics();
  }
}
