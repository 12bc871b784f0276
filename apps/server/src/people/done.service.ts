import { Injectable } from '@nestjs/common';
import type { DonePage, DoneView } from '@euphonos/contracts';
import { DataSource } from 'typeorm';

/** More of the same by the same person within this time is one line. */
const TOGETHER_MINUTES = 10;
const KEPT_DAYS = 400;
const PAGE = 100;
const TO_ACCOUNT = 20;

const COLUMNS = 'id, at, until, times, person_name, action, subject_name';
interface DoneRow {
  readonly id: string;
  readonly at: Date;
  readonly until: Date;
  readonly times: number;
  readonly person_name: string | null;
  readonly action: string;
  readonly subject_name: string | null;
}
const viewOf = ({ at, until, person_name: person, subject_name: subject, ...row }: DoneRow): DoneView => ({
  ...row,
  at: at.toISOString(),
  until: until.toISOString(),
  person,
  subject,
});

/** What something was done to. */
export interface DoneSubject {
  readonly kind: string;
  readonly id: string;
}

/** Names by kind, as they are when something is done: what is deleted later keeps the name that it had. */
const NAMES: Readonly<Record<string, string>> = {
  session: 'SELECT name FROM session WHERE id = $1',
  production: 'SELECT name FROM production WHERE id = $1',
  recording: 'SELECT file_name AS name FROM recording WHERE id = $1',
  render: 'SELECT session.name FROM render JOIN session ON session.id = session_id WHERE render.id = $1',
  take: 'SELECT name FROM take WHERE id = $1',
  batch: 'SELECT name FROM batch WHERE id = $1',
  chain: 'SELECT name FROM kept_chain WHERE id = $1',
  profile: 'SELECT name FROM noise_profile WHERE id = $1',
  person: 'SELECT name FROM person WHERE id = $1',
};

/** Who did what: written beside every change, never changed, read by owners. */
@Injectable()
export class DoneService {
  constructor(private readonly dataSource: DataSource) {}

  async nameOf({ kind, id }: DoneSubject): Promise<string | null> {
    const ask = NAMES[kind];
    const rows = ask ? ((await this.dataSource.query(ask, [id])) as { name: string }[]) : [];
    return rows[0]?.name ?? null;
  }

  async note(
    who: { readonly personId: string | null; readonly name: string | null },
    action: string,
    subject: (DoneSubject & { readonly name: string | null }) | null = null,
  ): Promise<void> {
    const values = [who.personId, action, subject?.kind ?? null, subject?.id ?? null];
    const [, more] = (await this.dataSource.query(
      `UPDATE done SET until = now(), times = times + 1 WHERE id = (
         SELECT id FROM done WHERE person_id IS NOT DISTINCT FROM $1 AND until > now() - make_interval(mins => $5) ORDER BY id DESC LIMIT 1
       ) AND action = $2 AND subject_kind IS NOT DISTINCT FROM $3 AND subject_id IS NOT DISTINCT FROM $4`,
      [...values, TOGETHER_MINUTES],
    )) as [unknown, number];
    if (more > 0) return;
    await this.dataSource.query(
      'INSERT INTO done (person_id, action, subject_kind, subject_id, person_name, subject_name) VALUES ($1, $2, $3, $4, $5, $6)',
      [...values, who.name, subject?.name ?? null],
    );
  }

  /** What happened to an account of late: sign-ins, wrong passwords, another password, what others changed of it (ASVS 4.0.3, 2.2.3). */
  async toAccount(personId: string): Promise<DoneView[]> {
    const rows = (await this.dataSource.query(
      `SELECT ${COLUMNS} FROM done WHERE (person_id = $1::uuid AND action ~ '^(sign-in|signIn)[.]') OR (subject_kind = 'person' AND subject_id = $1::uuid::text)
       ORDER BY id DESC LIMIT ${TO_ACCOUNT}`,
      [personId],
    )) as DoneRow[];
    return rows.map(viewOf);
  }

  /** The latest first. */
  async page(before: number | undefined, personId: string | undefined): Promise<DonePage> {
    const rows = (await this.dataSource.query(
      `SELECT ${COLUMNS} FROM done
       WHERE ($1::bigint IS NULL OR id < $1) AND ($2::uuid IS NULL OR person_id = $2) ORDER BY id DESC LIMIT ${PAGE + 1}`,
      [before ?? null, personId ?? null],
    )) as DoneRow[];
    const shown = rows.slice(0, PAGE);
    return {
      rows: shown.map(viewOf),
      next: rows.length > PAGE ? shown.at(-1)!.id : null,
    };
  }

  async tidy(): Promise<void> {
    await this.dataSource.query('DELETE FROM done WHERE until < now() - make_interval(days => $1)', [KEPT_DAYS]);
  }
}
