import { Injectable } from '@nestjs/common';
import type { HoldView } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { askerId } from '../rights/asker.js';
import { SessionsService } from './sessions.service.js';

/** A window that has not been heard of for so long has gone. */
export const GONE_AFTER_SECONDS = 15;

/** Which window works on a session: one at a time, so that two do not overwrite each other unseen. */
@Injectable()
export class HoldsService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly sessions: SessionsService,
  ) {}

  /** Holds a session for a window, or says since when another one does. `take` takes it over from that one. */
  async hold(sessionId: string, windowId: string, take: boolean): Promise<HoldView> {
    const { revision } = await this.sessions.find(sessionId);
    const taken = (await this.dataSource.query(
      `INSERT INTO session_hold AS known (session_id, window_id, person_id) VALUES ($1, $2, $5)
       ON CONFLICT (session_id) DO UPDATE SET window_id = $2, person_id = $5, seen_at = now(), since = CASE WHEN known.window_id = $2 THEN known.since ELSE now() END
       WHERE known.window_id = $2 OR $3 OR known.seen_at < now() - make_interval(secs => $4)
       RETURNING since`,
      [sessionId, windowId, take, GONE_AFTER_SECONDS, askerId()],
    )) as { since: Date }[];
    if (taken[0]) return { held: true, since: taken[0].since.toISOString(), by: null, revision };
    const [other] = (await this.dataSource.query(
      'SELECT since, name, person_id FROM session_hold LEFT JOIN person ON person.id = person_id WHERE session_id = $1',
      [sessionId],
    )) as { since: Date; name: string | null; person_id: string | null }[];
    const by = other?.person_id === askerId() ? null : (other?.name ?? null);
    // It may have let go in between: then the next call has it.
    return { held: false, since: (other?.since ?? new Date()).toISOString(), by, revision };
  }

  /** A window that leaves lets go; another one's hold stays. */
  async letGo(sessionId: string, windowId: string): Promise<void> {
    await this.dataSource.query('DELETE FROM session_hold WHERE session_id = $1 AND window_id = $2', [sessionId, windowId]);
  }
}
