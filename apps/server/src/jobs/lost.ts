import { hostname } from 'node:os';
import type { DataSource } from 'typeorm';
import type { JobEntity } from './job.entity.js';

/** A job whose worker has not been heard of for this long is given to another one. */
const LOST_AFTER_SECONDS = 12;
/** The first that wait are announced again; those behind them come when these are through. */
const ANNOUNCED_AGAIN = 50;

export interface OpenJob extends Pick<JobEntity, 'id' | 'kind' | 'later' | 'attempt' | 'workerId'> {
  readonly state: 'running' | 'queued';
  /** Its worker has not been heard of for too long. */
  readonly silent: boolean;
}

/** What runs, and what has waited for so long that nobody may have been told of it. By the clock of the database, which all share. */
export const openJobs = (dataSource: DataSource): Promise<OpenJob[]> =>
  dataSource.query(
    `SELECT id, kind, later, state, attempt, worker_id AS "workerId", coalesce(heartbeat_at < now() - make_interval(secs => $1), true) AS silent
     FROM job WHERE state = 'running' UNION ALL (
       SELECT id, kind, later, state, attempt, worker_id, false FROM (
         SELECT *, row_number() OVER (PARTITION BY kind, later ORDER BY created_at) AS place FROM job
         WHERE state = 'queued' AND created_at < now() - interval '5 seconds'
       ) AS waiting WHERE place <= $2)`,
    [LOST_AFTER_SECONDS, ANNOUNCED_AGAIN],
  );

/** Whether nobody is at a running job any more. `running`: what the process that asks, `ownId`, is at. */
export function isLost({ id, workerId, silent }: OpenJob, ownId: string, running: { has(id: string): boolean }): boolean {
  if (workerId === ownId) return !running.has(id);
  const [name, pid] = (workerId ?? '').split('/');
  if (name === hostname() && !isAlive(Number(pid))) return true;
  return silent;
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
