import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Many files at once; sessions that come in bundles; and kinds of jobs are what the program knows, not the table: each new one had to be told to it. Filmed recordings that were read before get their small copies. */
export class HandOver1764800000000 implements MigrationInterface {
  readonly name = 'HandOver1764800000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE job DROP CONSTRAINT IF EXISTS job_kind_check;
      ALTER TABLE session ADD COLUMN to_be jsonb;
      ALTER TABLE render ADD COLUMN piece jsonb;
      ALTER TABLE render ADD COLUMN keep_others boolean NOT NULL DEFAULT true;
      CREATE TABLE batch (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        chain jsonb,
        target jsonb NOT NULL,
        profile_id uuid,
        folder text,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE TABLE batch_item (
        session_id uuid PRIMARY KEY REFERENCES session (id) ON DELETE CASCADE,
        batch_id uuid NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
        place int NOT NULL,
        needs_ear jsonb NOT NULL DEFAULT '[]',
        accepted boolean NOT NULL DEFAULT false,
        put_out uuid
      );
      CREATE INDEX batch_item_of ON batch_item (batch_id, place);
      INSERT INTO job (kind, session_id, subject_id)
        SELECT 'picture', session_id, recording_id FROM session_recording JOIN recording ON recording.id = recording_id
        WHERE (facts->>'picture')::boolean AND blobs IS NOT NULL;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE batch_item;
      DROP TABLE batch;
      ALTER TABLE session DROP COLUMN to_be;
      ALTER TABLE render DROP COLUMN keep_others;
      ALTER TABLE render DROP COLUMN piece;
      DELETE FROM job WHERE kind NOT IN ('read', 'render', 'survey');
      ALTER TABLE job ADD CONSTRAINT job_kind_check CHECK (kind IN ('read', 'render', 'survey'));
    `);
  }
}
