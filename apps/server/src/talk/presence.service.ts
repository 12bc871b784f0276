import { Injectable } from '@nestjs/common';
import type { HereView, SayHere } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { seesAll, type Asker } from '../rights/asker.js';
import { heardBy } from '../rights/rights.service.js';
import { GONE_AFTER_SECONDS } from '../sessions/holds.service.js';

/** Pages say every 10 s that they are there. */
const AWAY_AFTER_SECONDS = 25;

/** Who is here: people who have a page open. */
@Injectable()
export class PresenceService {
  constructor(private readonly dataSource: DataSource) {}

  /** Takes note of a window, and tells of everybody: what they look at only where whoever asks may hear it. */
  async say({ personId, role }: Asker, { windowId, sessionId, leaving }: SayHere): Promise<HereView[]> {
    if (leaving) await this.dataSource.query('DELETE FROM presence WHERE window_id = $1 AND person_id = $2', [windowId, personId]);
    else
      await this.dataSource.query(
        `INSERT INTO presence AS known (window_id, person_id, session_id) VALUES ($1, $2, (SELECT id FROM session WHERE id = $3))
         ON CONFLICT (window_id) DO UPDATE SET session_id = excluded.session_id, seen_at = now() WHERE known.person_id = $2`,
        [windowId, personId, sessionId ?? null],
      );
    await this.dataSource.query('DELETE FROM presence WHERE seen_at < now() - make_interval(mins => 10)');
    const values: unknown[] = [AWAY_AFTER_SECONDS, GONE_AFTER_SECONDS];
    const mayHear = seesAll() ? 'true' : heardBy(personId, (given) => `$${values.push(given)}`);
    // Listeners come from outside: they meet those who are at what is shared with them, and do not hear of each other otherwise.
    const strangersToo = role === 'listener' ? 'AND session.id IS NOT NULL' : '';
    return (await this.dataSource.query(
      `SELECT DISTINCT ON (person.name, person.id, session.id) person.id AS "personId", person.name, session.id AS "sessionId",
         session.name AS "sessionName", coalesce(session_hold.person_id = person.id, false) AS holds
       FROM presence JOIN person ON person.id = presence.person_id
       LEFT JOIN session ON session.id = presence.session_id AND session.deleted_at IS NULL AND ${mayHear}
       LEFT JOIN session_hold ON session_hold.session_id = session.id AND session_hold.seen_at > now() - make_interval(secs => $2)
       WHERE presence.seen_at > now() - make_interval(secs => $1) AND disabled_at IS NULL ${strangersToo}
       ORDER BY person.name, person.id, session.id`,
      values,
    )) as HereView[];
  }
}
