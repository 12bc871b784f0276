import { Injectable } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppProblem } from '../problems/app-problem.js';
import { hashOfSecret } from './secrets.js';

/** So many wrong passwords are forgiven; from then on each locks for twice as long as the one before. */
const FORGIVEN = 5;
const FIRST_LOCK_SECONDS = 30;
const LONGEST_LOCK_SECONDS = 1800;
/** Wrong ones of earlier are forgotten. */
const FORGOTTEN_AFTER_HOURS = 24;

const keyOf = (email: string): string => hashOfSecret(email.trim().toLowerCase());

/**
 * Slows down whoever tries passwords on one account, whether there is such an account or not, so that the answer does not tell. At most
 * 5 + 48 in a day and 9 in its first hour (ASVS 4.0.3, 2.2.1 allows 100 an hour).
 */
@Injectable()
export class LockOutService {
  constructor(private readonly dataSource: DataSource) {}

  /** @throws {AppProblem} `locked` while it is */
  async requireOpen(email: string): Promise<void> {
    const [row] = (await this.dataSource.query(
      'SELECT locked_until, extract(epoch FROM locked_until - now())::int AS seconds FROM wrong_password WHERE email_hash = $1 AND locked_until > now()',
      [keyOf(email)],
    )) as { locked_until: Date; seconds: number }[];
    if (row)
      throw new AppProblem(
        429,
        'locked',
        `After several wrong passwords this account is closed for ${waitWords(row.seconds)}. Wait, or ask an owner for a link that renews the password.`,
        { untilIso: row.locked_until.toISOString() },
      );
  }

  /** Takes note of a wrong password. @returns whether it locked */
  async wrong(email: string): Promise<boolean> {
    const [row] = (await this.dataSource.query(
      `INSERT INTO wrong_password AS known (email_hash) VALUES ($1)
       ON CONFLICT (email_hash) DO UPDATE SET at = now(),
         times = CASE WHEN known.at < now() - make_interval(hours => $2) THEN 1 ELSE known.times + 1 END
       RETURNING times`,
      [keyOf(email), FORGOTTEN_AFTER_HOURS],
    )) as { times: number }[];
    const over = row!.times - FORGIVEN;
    if (over < 0) return false;
    const seconds = Math.min(LONGEST_LOCK_SECONDS, FIRST_LOCK_SECONDS * 2 ** Math.min(over, 20));
    await this.dataSource.query('UPDATE wrong_password SET locked_until = now() + make_interval(secs => $2) WHERE email_hash = $1', [
      keyOf(email),
      seconds,
    ]);
    return true;
  }

  async forgive(email: string): Promise<void> {
    await this.dataSource.query('DELETE FROM wrong_password WHERE email_hash = $1', [keyOf(email)]);
  }

  async lockedUntil(email: string): Promise<Date | null> {
    const [row] = (await this.dataSource.query('SELECT locked_until FROM wrong_password WHERE email_hash = $1 AND locked_until > now()', [
      keyOf(email),
    ])) as { locked_until: Date }[];
    return row?.locked_until ?? null;
  }

  async tidy(): Promise<void> {
    await this.dataSource.query('DELETE FROM wrong_password WHERE at < now() - make_interval(hours => $1)', [FORGOTTEN_AFTER_HOURS]);
  }
}

const waitWords = (seconds: number): string => (seconds < 90 ? `${Math.max(1, seconds)} s` : `${Math.ceil(seconds / 60)} min`);
