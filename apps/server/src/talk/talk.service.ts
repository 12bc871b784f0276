import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { AcceptanceView, AcceptSession, AnswerView, ChangeComment, CommentView, MakeComment, TalkView } from '@euphonos/contracts';
import { DataSource } from 'typeorm';
import { TALK_CHANNEL } from '../events/events.service.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { asker, askerId } from '../rights/asker.js';
import { RightsService } from '../rights/rights.service.js';
import { SessionsService } from '../sessions/sessions.service.js';

/** So many of one session; more are no talk any more. */
const MOST_COMMENTS = 2000;

interface Raw {
  readonly id: string;
  readonly session_id: string;
  readonly answers: string | null;
  readonly person_id: string | null;
  readonly person_name: string | null;
  readonly start_frame: string | null;
  readonly end_frame: string | null;
  readonly text: string;
  readonly revision: number;
  readonly at: Date;
  readonly changed_at: Date | null;
  readonly resolved_at: Date | null;
  readonly resolved_by: string | null;
}

const frame = (given: string | null): number | null => (given === null ? null : Number(given));

/** What people say of a session to each other: comments on stretches of it, answers, and whether it is accepted. */
@Injectable()
export class TalkService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly sessions: SessionsService,
    private readonly rights: RightsService,
  ) {}

  async of(sessionId: string): Promise<TalkView> {
    const { revision } = await this.sessions.find(sessionId);
    const maySettle = await this.#mayChange(sessionId);
    const rows = (await this.dataSource.query('SELECT * FROM comment WHERE session_id = $1 ORDER BY start_frame NULLS FIRST, at, id', [
      sessionId,
    ])) as Raw[];
    const last = (await this.dataSource.query(
      `SELECT * FROM (SELECT DISTINCT ON (person_id) * FROM acceptance WHERE session_id = $1 ORDER BY person_id, id DESC) AS last ORDER BY at DESC`,
      [sessionId],
    )) as { person_id: string | null; person_name: string | null; accepted: boolean; note: string; at: Date; revision: number }[];
    const me = askerId();
    return {
      revision,
      comments: rows.filter(({ answers }) => answers === null).map((row) => comment(row, rows, me, maySettle)),
      acceptances: last.map(({ person_id, person_name, accepted, note, at, revision: heard }): AcceptanceView => ({
        by: person_name,
        own: person_id === me,
        accepted,
        note,
        at: at.toISOString(),
        revision: heard,
      })),
    };
  }

  /** @throws {AppProblem} `not-found` for what it answers, `comment-span`, `too-many` */
  async say(sessionId: string, { text, startFrame, endFrame, answers }: MakeComment): Promise<void> {
    const { revision } = await this.sessions.find(sessionId);
    if (startFrame !== undefined && endFrame !== undefined && endFrame <= startFrame)
      throw new AppProblem(422, 'comment-span', `A comment ends after it begins; ${startFrame} to ${endFrame} was given.`);
    const [{ there }] = (await this.dataSource.query('SELECT count(*)::int AS there FROM comment WHERE session_id = $1', [sessionId])) as [
      { there: number },
    ];
    if (there >= MOST_COMMENTS)
      throw new AppProblem(
        422,
        'too-many',
        `A session takes up to ${MOST_COMMENTS} comments; settle and remove some. Nothing was written.`,
      );
    if (answers) {
      const known = await this.#find(answers);
      if (known.session_id !== sessionId || known.answers !== null) throw notFound('comment');
    }
    await this.dataSource.query(
      `INSERT INTO comment (id, session_id, answers, person_id, person_name, start_frame, end_frame, text, revision)
       VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [
        randomUUID(),
        sessionId,
        answers ?? null,
        askerId(),
        asker()?.name ?? null,
        answers ? null : (startFrame ?? null),
        answers || startFrame === undefined ? null : (endFrame ?? null),
        text,
        revision,
      ],
    );
    // What is answered is not settled yet.
    if (answers) await this.dataSource.query('UPDATE comment SET resolved_at = NULL, resolved_by = NULL WHERE id = $1', [answers]);
    await this.#tell(sessionId);
  }

  /** Its words are changed by whoever wrote it; it is settled by them and by whoever may change the session. */
  async change(id: string, { text, resolved }: ChangeComment): Promise<void> {
    const known = await this.#find(id);
    const own = known.person_id === askerId();
    if (text !== undefined && !own) throw notOwn();
    if (resolved !== undefined && !own && !(await this.#mayChange(known.session_id))) throw notOwn();
    if (text !== undefined) await this.dataSource.query('UPDATE comment SET text = $2, changed_at = now() WHERE id = $1', [id, text]);
    if (resolved !== undefined)
      await this.dataSource.query(
        'UPDATE comment SET resolved_at = CASE WHEN $2 THEN now() END, resolved_by = CASE WHEN $2 THEN $3::text END WHERE id = $1',
        [id, resolved, asker()?.name ?? null],
      );
    await this.#tell(known.session_id);
  }

  async takeBack(id: string): Promise<void> {
    const known = await this.#find(id);
    if (known.person_id !== askerId() && asker()?.role !== 'owner') throw notOwn();
    await this.dataSource.query('DELETE FROM comment WHERE id = $1', [id]);
    await this.#tell(known.session_id);
  }

  /** @throws {AppProblem} `stale-revision`: what was heard is not what there is now */
  async accept(sessionId: string, { revision, accepted, note }: AcceptSession): Promise<void> {
    const session = await this.sessions.find(sessionId);
    if (session.revision !== revision)
      throw new AppProblem(
        409,
        'stale-revision',
        'The session was changed since you began to listen, so nothing was said of it. Listen to what is new, then say it again.',
        { revision: session.revision },
      );
    await this.dataSource.query(
      'INSERT INTO acceptance (session_id, person_id, person_name, accepted, note, revision) VALUES ($1, $2, $3, $4, $5, $6)',
      [sessionId, askerId(), asker()?.name ?? null, accepted, note ?? '', revision],
    );
    await this.#tell(sessionId);
  }

  async #mayChange(sessionId: string): Promise<boolean> {
    const person = asker();
    return person === null || (await this.rights.may(person, 'session', sessionId)) === 'change';
  }

  async #find(id: string): Promise<Raw> {
    const [row] = (await this.dataSource.query('SELECT * FROM comment WHERE id = $1', [id])) as Raw[];
    if (!row) throw notFound('comment');
    return row;
  }

  async #tell(sessionId: string): Promise<void> {
    await this.dataSource.query('SELECT pg_notify($1, $2)', [TALK_CHANNEL, JSON.stringify({ sessionId })]);
  }
}

const notOwn = (): AppProblem => new AppProblem(403, 'no-right', 'That was said by somebody else; answer it instead. Nothing was changed.');

const said = ({ id, person_id, person_name, text, at, changed_at }: Raw, me: string | null): AnswerView => ({
  id,
  by: person_name,
  own: person_id === me,
  text,
  at: at.toISOString(),
  changed: changed_at !== null,
});

const comment = (row: Raw, all: readonly Raw[], me: string | null, maySettle: boolean): CommentView => ({
  ...said(row, me),
  startFrame: frame(row.start_frame),
  endFrame: frame(row.end_frame),
  revision: row.revision,
  resolved: row.resolved_at && { by: row.resolved_by, at: row.resolved_at.toISOString() },
  maySettle: maySettle || row.person_id === me,
  answers: all
    .filter(({ answers }) => answers === row.id)
    .sort((a, b) => a.at.getTime() - b.at.getTime())
    .map((answer) => said(answer, me)),
});
