import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Takes that are recorded with a microphone. */
export class Takes1764900000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE take (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        number int NOT NULL,
        state text NOT NULL,
        sitting_id uuid NOT NULL,
        session_id uuid REFERENCES session (id) ON DELETE CASCADE,
        recording_id uuid,
        sample_rate_hz int NOT NULL,
        channels int NOT NULL,
        device text NOT NULL,
        frames bigint NOT NULL DEFAULT 0,
        pre_roll_frames int NOT NULL DEFAULT 0,
        marks jsonb NOT NULL DEFAULT '[]',
        gaps jsonb NOT NULL DEFAULT '[]',
        chain jsonb,
        profile_id uuid,
        figures jsonb,
        started_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX take_of_sitting ON take (sitting_id, number);
      CREATE INDEX take_of_session ON take (session_id);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE take');
  }
}
