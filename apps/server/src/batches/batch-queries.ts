import type { JobState, Problem, RenderReport } from '@euphonos/contracts';

interface RawJob {
  readonly state: JobState;
  readonly progress: number;
  readonly problem: Problem | null;
}

export interface RawItem {
  readonly session_id: string;
  readonly recording_id: string;
  readonly file_name: string;
  readonly seconds: number | null;
  readonly floor: number | null;
  readonly needs_ear: readonly string[];
  readonly accepted: boolean;
  readonly read_job: RawJob | null;
  readonly batch_job: RawJob | null;
  readonly render_job: RawJob | null;
  readonly render_id: string | null;
  readonly result_name: string | null;
  readonly passed: boolean | null;
  readonly report: Pick<RenderReport, 'lines' | 'after'> | null;
}

const JOB = (job: string): string =>
  `CASE WHEN ${job}.id IS NULL THEN NULL ELSE jsonb_build_object('state', ${job}.state, 'progress', ${job}.progress, 'problem', ${job}.problem) END`;

/** Items of a batch in the order in which they came, each with the latest of its jobs and its latest delivery. */
export const ITEMS = `
  SELECT item.session_id, recording.id AS recording_id, recording.file_name, session.seconds, item.needs_ear, item.accepted,
    (recording.facts->'figures'->>'noiseFloorDbfs')::float8 AS floor,
    ${JOB('reading')} AS read_job, ${JOB('treating')} AS batch_job, ${JOB('rendering')} AS render_job,
    delivery.id AS render_id, delivery.file_name AS result_name, delivery.passed,
    CASE WHEN delivery.report IS NULL THEN NULL
      ELSE jsonb_build_object('lines', delivery.report->'lines', 'after', delivery.report->'after') END AS report
  FROM batch_item AS item
  JOIN session ON session.id = item.session_id AND session.deleted_at IS NULL
  JOIN session_recording ON session_recording.session_id = item.session_id AND session_recording.place = 0
  JOIN recording ON recording.id = session_recording.recording_id
  JOIN job AS reading ON reading.id = recording.job_id
  LEFT JOIN LATERAL (
    SELECT * FROM job WHERE kind = 'batch' AND subject_id = item.session_id ORDER BY created_at DESC LIMIT 1
  ) AS treating ON true
  LEFT JOIN LATERAL (
    SELECT * FROM render WHERE session_id = item.session_id AND NOT stem AND (treating.id IS NULL OR created_at >= treating.created_at)
    ORDER BY created_at DESC LIMIT 1
  ) AS delivery ON true
  LEFT JOIN job AS rendering ON rendering.id = delivery.job_id
  WHERE item.batch_id = $1 ORDER BY item.place`;

export interface RawRow {
  readonly id: string;
  readonly name: string;
  readonly created_at: Date;
  readonly folder: string | null;
  readonly all: number;
  readonly done: number;
  readonly failed: number;
}

/** Batches of one person ($1) or all of them ($2), the latest first, with how many of their items are through and how many broke off. */
export const ROWS = `
  SELECT batch.id, batch.name, batch.created_at, batch.folder,
    count(item.session_id)::int AS "all",
    count(*) FILTER (WHERE delivery.passed IS NOT NULL)::int AS done,
    count(*) FILTER (WHERE broken.id IS NOT NULL AND delivery.passed IS NULL)::int AS failed
  FROM batch
  LEFT JOIN (batch_item AS item JOIN session ON session.id = item.session_id AND session.deleted_at IS NULL) ON item.batch_id = batch.id
  LEFT JOIN LATERAL (
    SELECT passed FROM render WHERE session_id = item.session_id AND passed IS NOT NULL ORDER BY created_at DESC LIMIT 1
  ) AS delivery ON true
  LEFT JOIN LATERAL (
    SELECT id FROM job WHERE session_id = item.session_id AND state = 'failed' LIMIT 1
  ) AS broken ON true
  WHERE $2 OR batch.made_by = $1::uuid
  GROUP BY batch.id ORDER BY batch.created_at DESC LIMIT 200`;

/** The latest finished delivery of each item whose file has not been put out. */
export const UNSENT = `
  SELECT item.session_id, delivery.id AS render_id FROM batch_item AS item
  JOIN LATERAL (
    SELECT id FROM render WHERE session_id = item.session_id AND NOT stem AND file_sha IS NOT NULL ORDER BY finished_at DESC LIMIT 1
  ) AS delivery ON true
  WHERE item.batch_id = $1 AND item.put_out IS DISTINCT FROM delivery.id ORDER BY item.place`;
