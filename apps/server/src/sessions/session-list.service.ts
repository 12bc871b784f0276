import { Injectable } from '@nestjs/common';
import {
  KEPT_DAYS,
  type ChangeSessions,
  type LeftToDo,
  type ListSessions,
  type May,
  type SessionOrder,
  type SessionPage,
  type SessionRow,
} from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { notFound } from '../problems/app-problem.js';
import { QuotasService } from '../quotas/quotas.service.js';
import { askerId, seesAll } from '../rights/asker.js';
import { heardBy, RightsService } from '../rights/rights.service.js';
import { GONE_AFTER_SECONDS } from './holds.service.js';
import { ProductionEntity } from '../productions/production.entity.js';

/** What is left to do, from what is known without the document: a session that nobody has changed waits for treatment. */
const LEFT = `CASE
  WHEN session.gathering THEN 'gathering'
  WHEN session.revision = 0 AND job.state = 'failed' THEN 'broken'
  WHEN session.revision = 0 THEN 'reading'
  WHEN delivery.revision = session.revision AND delivery.passed THEN 'done'
  WHEN delivery.revision = session.revision THEN 'missed'
  WHEN session.revision = 1 THEN 'treat'
  ELSE 'hand-over' END`;

/** The latest delivery. */
const DELIVERY = `
  LEFT JOIN LATERAL (
    SELECT revision, passed, integrated_lufs, finished_at FROM render
    WHERE session_id = session.id AND passed IS NOT NULL ORDER BY finished_at DESC LIMIT 1
  ) AS delivery ON true`;

/** The recording that says most: the one that is read, else the first that could be. */
const RECORDING = `
  LEFT JOIN LATERAL (
    SELECT recording.id, file_name, facts, job_id
    FROM session_recording JOIN recording ON recording.id = recording_id JOIN job AS reading ON reading.id = job_id
    WHERE session_recording.session_id = session.id
    ORDER BY reading.state NOT IN ('queued', 'running'), facts IS NULL, place LIMIT 1
  ) AS recording ON true
  LEFT JOIN job ON job.id = recording.job_id`;

const ORDERS: Readonly<Record<SessionOrder, readonly [by: string, descending: boolean]>> = {
  changed: ['session.updated_at', true],
  made: ['session.created_at', true],
  name: ['lower(session.name)', false],
  length: ['session.seconds', true],
  noise: ["(recording.facts->'figures'->>'noiseFloorDbfs')::float8", true],
};

interface Raw {
  readonly id: string;
  readonly name: string;
  readonly production_id: string | null;
  readonly production_name: string | null;
  readonly created_at: Date;
  readonly updated_at: Date;
  readonly deleted_at: Date | null;
  readonly made_by: string | null;
  readonly held_by: string | null;
  readonly open_comments: number;
  readonly accepted: boolean | null;
  readonly left: LeftToDo;
  readonly seconds: number | null;
  readonly tracks: number;
  readonly recordings: number;
  readonly bytes: number;
  readonly recording_id: string;
  readonly file_name: string;
  readonly facts: Pick<
    SessionRow['recording'],
    'lengthFrames' | 'sampleRateHz' | 'fileSampleRateHz' | 'channels' | 'codec' | 'noiseFloorDbfs' | 'notes'
  > | null;
  readonly job: SessionRow['recording']['job'];
  readonly passed: boolean | null;
  readonly lufs: number | null;
  readonly finished_at: Date | null;
}

/** The list of sessions in pages, without their documents, and what is done to many of them at once. */
@Injectable()
export class SessionListService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly rights: RightsService,
    private readonly quotas: QuotasService,
  ) {}

  async page(asked: ListSessions): Promise<SessionPage> {
    const { where, values } = conditions(asked);
    const [by, descending] = ORDERS[asked.sort];
    const order = `${by} ${descending !== asked.reverse ? 'DESC' : 'ASC'} NULLS LAST, session.id`;
    // Only what is asked by is looked up for all of them; the rest for the rows of the page.
    const from = `FROM session LEFT JOIN production ON production.id = session.production_id
      ${asked.left === undefined ? '' : DELIVERY} ${asked.left === undefined && asked.sort !== 'noise' ? '' : RECORDING}`;
    const [{ total }] = (await this.dataSource.query(`SELECT count(*)::int AS total ${from} WHERE ${where}`, values)) as [
      { total: number },
    ];
    const rows = (await this.dataSource.query(
      `WITH page AS (
         SELECT session.id, row_number() OVER (ORDER BY ${order}) AS place ${from} WHERE ${where}
         ORDER BY ${order} LIMIT ${asked.limit} OFFSET ${asked.offset}
       )
       SELECT session.id, session.name, production.id AS production_id, production.name AS production_name, session.created_at,
         session.updated_at, session.deleted_at, session.made_by, holder.name AS held_by,
         (SELECT count(*)::int FROM comment WHERE session_id = session.id AND answers IS NULL AND resolved_at IS NULL) AS open_comments,
         (SELECT accepted FROM acceptance WHERE session_id = session.id AND acceptance.revision = session.revision ORDER BY id DESC LIMIT 1) AS accepted,
         ${LEFT} AS left, session.seconds, session.track_count AS tracks,
         (SELECT count(*)::int FROM session_recording WHERE session_id = session.id) AS recordings,
         (SELECT coalesce(sum(size_bytes), 0)::float8 FROM session_recording JOIN recording AS one ON one.id = recording_id
           WHERE session_id = session.id) AS bytes,
         recording.id AS recording_id, recording.file_name,
         CASE WHEN recording.facts IS NULL THEN NULL ELSE jsonb_build_object('lengthFrames', facts->'lengthFrames', 'sampleRateHz', facts->'sampleRateHz',
           'fileSampleRateHz', facts->'fileSampleRateHz', 'channels', facts->'channels', 'codec', facts->'codec',
           'noiseFloorDbfs', facts->'figures'->'noiseFloorDbfs', 'notes', facts->'notes') END AS facts,
         jsonb_build_object('id', job.id, 'kind', job.kind, 'state', job.state, 'progress', job.progress, 'problem', job.problem) AS job,
         delivery.passed, delivery.integrated_lufs AS lufs, delivery.finished_at
       FROM page JOIN session ON session.id = page.id LEFT JOIN production ON production.id = session.production_id ${DELIVERY} ${RECORDING}
         LEFT JOIN session_hold ON session_hold.session_id = session.id AND session_hold.seen_at > now() - make_interval(secs => ${GONE_AFTER_SECONDS})
         LEFT JOIN person AS holder ON holder.id = session_hold.person_id
       ORDER BY page.place`,
      values,
    )) as Raw[];
    const may = await this.rights.mayWithSessions();
    return { rows: rows.map((row) => asRow(row, may(row.made_by, row.production_id))), total };
  }

  /** Moves, puts away, deletes or brings back many at once. @throws {AppProblem} `not-found` for a production that is gone */
  async change({ ids, productionId, archived, deleted }: ChangeSessions): Promise<void> {
    if (productionId && !(await this.dataSource.manager.existsBy(ProductionEntity, { id: productionId }))) throw notFound('production');
    const sets = [
      ...(productionId === undefined ? [] : ['production_id = $2']),
      ...(archived === undefined ? [] : [`archived_at = ${archived ? 'now()' : 'NULL'}`]),
      ...(deleted === undefined ? [] : [`deleted_at = ${deleted ? 'coalesce(deleted_at, now())' : 'NULL'}`]),
    ];
    if (sets.length === 0) return;
    await this.dataSource.transaction(async (manager) => {
      await manager.query(`UPDATE session SET ${sets.join(', ')} WHERE id = ANY($1)`, [
        ids,
        ...(productionId === undefined ? [] : [productionId]),
      ]);
      if (productionId) await this.quotas.require(manager, null, productionId, 0);
    });
  }

  /** Those that were deleted so long ago that they go for good. */
  async overdue(): Promise<string[]> {
    const rows = (await this.dataSource.query(`SELECT id FROM session WHERE deleted_at < now() - make_interval(days => $1)`, [
      KEPT_DAYS,
    ])) as {
      id: string;
    }[];
    return rows.map(({ id }) => id);
  }
}

function conditions({ search, production, shelf, left }: ListSessions): { readonly where: string; readonly values: readonly unknown[] } {
  const values: unknown[] = [];
  const value = (given: unknown): string => `$${values.push(given)}`;
  const put = 'session.archived_at IS NOT NULL OR production.archived_at IS NOT NULL';
  const where = [
    ...(seesAll() ? [] : [heardBy(askerId()!, value)]),
    shelf === 'deleted' ? 'session.deleted_at IS NOT NULL' : 'session.deleted_at IS NULL',
    ...(shelf === 'deleted' ? [] : [shelf === 'archive' ? `(${put})` : `NOT (${put})`]),
    ...(production === undefined
      ? []
      : [production === 'none' ? 'session.production_id IS NULL' : `session.production_id = ${value(production)}`]),
    ...(left === undefined ? [] : [`${LEFT} = ${value(left)}`]),
    ...(search?.trim().split(/\s+/).filter(Boolean) ?? []).map((word) => {
      const like = value(`%${word.replace(/[\\%_]/g, '\\$&')}%`);
      return `(session.name ILIKE ${like} OR production.name ILIKE ${like} OR EXISTS (
        SELECT 1 FROM session_recording JOIN recording AS one ON one.id = recording_id WHERE session_id = session.id AND one.file_name ILIKE ${like}))`;
    }),
  ];
  return { where: where.join(' AND '), values };
}

const NO_FACTS = {
  lengthFrames: null,
  sampleRateHz: null,
  fileSampleRateHz: null,
  channels: null,
  codec: null,
  noiseFloorDbfs: null,
  notes: [],
};

function asRow(raw: Raw, may: May): SessionRow {
  return {
    id: raw.id,
    name: raw.name,
    production: raw.production_id === null ? null : { id: raw.production_id, name: raw.production_name! },
    may,
    heldBy: raw.held_by,
    openComments: raw.open_comments,
    accepted: raw.accepted,
    createdAt: raw.created_at.toISOString(),
    updatedAt: raw.updated_at.toISOString(),
    deletedAt: raw.deleted_at?.toISOString() ?? null,
    left: raw.left,
    seconds: raw.seconds,
    tracks: raw.tracks,
    recordings: raw.recordings,
    sizeBytes: raw.bytes,
    recording: { id: raw.recording_id, fileName: raw.file_name, job: raw.job, ...(raw.facts ?? NO_FACTS) },
    lastDelivery: raw.passed === null ? null : { passed: raw.passed, integratedLufs: raw.lufs, finishedAt: raw.finished_at!.toISOString() },
  };
}
