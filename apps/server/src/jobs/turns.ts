import type { JobKind } from '@euphonos/contracts';
import type { DataSource } from 'typeorm';

/** Who waits: a batch, or else whoever made the session. Whoever was served longest ago comes first, then whoever came first. */
const NEXT = `
  WITH open AS (
    SELECT job.id, job.created_at, coalesce(batch_item.batch_id, session.made_by) AS whose
    FROM job LEFT JOIN batch_item ON batch_item.session_id = job.session_id LEFT JOIN session ON session.id = job.session_id
    WHERE job.later AND job.kind = $1 AND job.state = 'queued'
  ), served AS (
    SELECT batch_item.batch_id AS whose, max(job.heartbeat_at) AS at FROM job JOIN batch_item ON batch_item.session_id = job.session_id
    WHERE job.later AND job.kind = $1 AND batch_item.batch_id IN (SELECT whose FROM open) GROUP BY batch_item.batch_id
  )
  SELECT open.id FROM open LEFT JOIN served USING (whose) ORDER BY served.at NULLS FIRST, open.created_at LIMIT 1`;

/**
 * Which of the jobs of a kind that nobody waits for is next: batches take turns, so that one of ten files is not held up by one of a thousand.
 * @returns its id; null when none waits
 */
export async function nextInTurn(dataSource: DataSource, kind: JobKind): Promise<string | null> {
  const [row] = (await dataSource.query(NEXT, [kind])) as { readonly id: string }[];
  return row?.id ?? null;
}
