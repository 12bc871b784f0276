import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Which window works on a session. */
export class Holds1764400000000 implements MigrationInterface {
  readonly name = 'Holds1764400000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE session_hold (
        session_id uuid PRIMARY KEY REFERENCES session (id) ON DELETE CASCADE,
        window_id uuid NOT NULL,
        since timestamptz NOT NULL DEFAULT now(),
        seen_at timestamptz NOT NULL DEFAULT now()
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE session_hold;');
  }
}
