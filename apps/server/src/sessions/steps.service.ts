import { Injectable } from '@nestjs/common';
import type { SavedSteps } from '@euphonos/contracts';
import type { HistoryLog } from '@euphonos/engine';
import { DataSource, type EntityManager } from 'typeorm';
import { AppProblem } from '../problems/app-problem.js';

/** More than anybody does in a session, and what one request may bring. */
const MOST_STEPS = 100_000;

/** The steps that led to the document of a session: written with it, so that they always lead there. */
@Injectable()
export class StepsService {
  constructor(private readonly dataSource: DataSource) {}

  /** All of them, from what the session began with; null where nothing is known of it. */
  async find(sessionId: string): Promise<HistoryLog | null> {
    const [known] = (await this.dataSource.query('SELECT start, future FROM session_history WHERE session_id = $1', [sessionId])) as Pick<
      HistoryLog,
      'start' | 'future'
    >[];
    if (!known) return null;
    const rows = (await this.dataSource.query('SELECT edits FROM session_step WHERE session_id = $1 ORDER BY place', [sessionId])) as {
      edits: HistoryLog['past'][number];
    }[];
    return { ...known, past: rows.map(({ edits }) => edits) };
  }

  /**
   * Keeps the steps up to `from` and puts the given ones behind them. False where fewer are known than are to be kept: then none are, and
   * all are to be sent. Without steps nobody knows how the document came about: those of before go.
   */
  async save(manager: EntityManager, sessionId: string, steps: SavedSteps | undefined): Promise<boolean> {
    if (!steps || steps.from === 0) await manager.query('DELETE FROM session_history WHERE session_id = $1', [sessionId]);
    if (!steps) return true;
    const { from, start, past, future } = requireSteps(steps);
    if (from === 0 && !start) return false;
    if (from === 0)
      await manager.query('INSERT INTO session_history (session_id, start) VALUES ($1, $2)', [sessionId, JSON.stringify(start)]);
    else {
      const [{ count }] = (await manager.query('SELECT count(*) FROM session_step WHERE session_id = $1 AND place < $2', [
        sessionId,
        from,
      ])) as [{ count: string }];
      if (Number(count) < from) {
        await manager.query('DELETE FROM session_history WHERE session_id = $1', [sessionId]);
        return false;
      }
      await manager.query('DELETE FROM session_step WHERE session_id = $1 AND place >= $2', [sessionId, from]);
    }
    await manager.query('UPDATE session_history SET future = $2 WHERE session_id = $1', [sessionId, JSON.stringify(future)]);
    await manager.query(
      `INSERT INTO session_step (session_id, place, edits)
       SELECT $1, $2 + ordinality - 1, step FROM jsonb_array_elements($3::jsonb) WITH ORDINALITY AS steps (step, ordinality)`,
      [sessionId, from, JSON.stringify(past)],
    );
    return true;
  }
}

/** The shape of steps; what is in an edit is found out by whoever does it again. @throws {AppProblem} `steps-shape` */
function requireSteps(steps: SavedSteps): SavedSteps {
  const { from, past, future } = steps;
  const isSteps = (list: unknown): boolean =>
    Array.isArray(list) && list.length <= MOST_STEPS && list.every((edits) => Array.isArray(edits) && edits.every(isEdit));
  if (Number.isInteger(from) && from >= 0 && from <= MOST_STEPS && isSteps(past) && isSteps(future)) return steps;
  throw new AppProblem(
    422,
    'steps-shape',
    `Steps are lists of edits, up to ${MOST_STEPS} of them; these are not. The document was not saved.`,
  );
}

const isEdit = (edit: unknown): boolean => typeof (edit as { type?: unknown } | null)?.type === 'string';
