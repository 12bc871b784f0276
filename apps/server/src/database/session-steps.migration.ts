import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What was done in a session, as the edits that were made: what it began with, every step in its place, and what was undone. */
export class SessionSteps1764600000000 implements MigrationInterface {
  readonly name = 'SessionSteps1764600000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE session_history (
        session_id uuid PRIMARY KEY REFERENCES session (id) ON DELETE CASCADE,
        start jsonb NOT NULL,
        future jsonb NOT NULL DEFAULT '[]'
      );
      CREATE TABLE session_step (
        session_id uuid NOT NULL REFERENCES session_history (session_id) ON DELETE CASCADE,
        place int NOT NULL,
        edits jsonb NOT NULL,
        PRIMARY KEY (session_id, place)
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE session_step; DROP TABLE session_history;');
  }
}
