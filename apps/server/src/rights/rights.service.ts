import { Injectable } from '@nestjs/common';
import type { May, Role, Share } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { asker, seesAll, type Asker } from './asker.js';
import { IS_ID, type SubjectKind } from './right.js';

/** Who made it, and what is shared with whoever asks; a row a way to it. */
interface Way {
  readonly made_by: string | null;
  readonly share: Share | null;
}

/** Sessions that something belongs to, and by them the productions that are shared with somebody ($2). */
const bySessions = (sessions: string): string => `
  SELECT session.made_by, share FROM session LEFT JOIN production_person
    ON production_person.production_id = session.production_id AND production_person.person_id = $2
  WHERE session.id IN (${sessions})`;

/** The library is the studio's: engineers take from it, whoever put something there changes it. */
const inLibrary = (table: string): string => `
  SELECT made_by, CASE WHEN person.role <> 'listener' THEN 'listener' END AS share FROM ${table}, person WHERE ${table}.id = $1 AND person.id = $2`;

/** Whoever hears a session hears what it is made of, and changes none of that. */
const HEARD_WITH_ITS_PROFILE = `
  SELECT NULL::uuid, 'listener' FROM session LEFT JOIN production_person
    ON production_person.production_id = session.production_id AND production_person.person_id = $2,
    jsonb_array_elements(document->'tracks') AS track
  WHERE track->'noise'->>'profileId' = $1::text AND (session.made_by = $2 OR share IS NOT NULL)`;

/** The ways to each kind of thing ($1). */
const WAYS: Readonly<Record<SubjectKind, string>> = {
  session: bySessions('SELECT $1::uuid'),
  recording: bySessions('SELECT session_id FROM session_recording WHERE recording_id = $1'),
  render: bySessions('SELECT session_id FROM render WHERE id = $1'),
  comment: bySessions('SELECT session_id FROM comment WHERE id = $1'),
  production: `SELECT NULL::uuid AS made_by, share FROM production LEFT JOIN production_person
    ON production_id = production.id AND person_id = $2 WHERE production.id = $1`,
  take: `SELECT made_by, NULL AS share FROM take WHERE id = $1 UNION ALL ${bySessions('SELECT session_id FROM take WHERE id = $1')}`,
  batch: 'SELECT made_by, NULL AS share FROM batch WHERE id = $1 AND $2::uuid IS NOT NULL',
  chain: inLibrary('kept_chain'),
  profile: `${inLibrary('noise_profile')} UNION ALL ${HEARD_WITH_ITS_PROFILE}`,
};

/** What a way allows to somebody of a role. */
export function allowed({ made_by, share }: Way, { personId, role }: { readonly personId: string; readonly role: Role }): May | null {
  if (role === 'owner') return 'change';
  const own = made_by === personId;
  if (role === 'engineer' && (own || share === 'engineer')) return 'change';
  return own || share !== null ? 'hear' : null;
}

/** What people may do with what. */
@Injectable()
export class RightsService {
  constructor(private readonly dataSource: DataSource) {}

  /** The most that somebody may do with something; null: nothing, or there is no such thing. */
  async may(person: Pick<Asker, 'personId' | 'role'>, of: SubjectKind, id: string): Promise<May | null> {
    if (!IS_ID.test(id)) return null;
    const ways = (await this.dataSource.query(WAYS[of], [id, person.personId])) as Way[];
    const found = ways.map((way) => allowed(way, person));
    return found.includes('change') ? 'change' : found.includes('hear') ? 'hear' : null;
  }

  /** What is shared with somebody: productions by their ids. */
  async shares(personId: string): Promise<ReadonlyMap<string, Share>> {
    const rows = (await this.dataSource.query('SELECT production_id, share FROM production_person WHERE person_id = $1', [personId])) as {
      production_id: string;
      share: Share;
    }[];
    return new Map(rows.map(({ production_id, share }) => [production_id, share]));
  }

  /** What whoever asks may do with sessions, by who made each and the production it is in. */
  async mayWithSessions(): Promise<(madeBy: string | null, productionId: string | null) => May> {
    const person = asker();
    if (seesAll() || !person) return () => 'change';
    const shares = await this.shares(person.personId);
    return (made_by, productionId) => allowed({ made_by, share: shares.get(productionId ?? '') ?? null }, person) ?? 'hear';
  }
}

/** Rows of sessions that somebody may hear, as a condition: `values` gets what it asks for. For owners there is none. */
export const heardBy = (personId: string, value: (given: unknown) => string): string => {
  const me = value(personId);
  return `(session.made_by = ${me} OR session.production_id IN (SELECT production_id FROM production_person WHERE person_id = ${me}))`;
};
