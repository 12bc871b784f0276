import type { MigrationInterface, QueryRunner } from 'typeorm';

export class FirstTables1764000000000 implements MigrationInterface {
  readonly name = 'FirstTables1764000000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE job (
        id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
        kind text NOT NULL CHECK (kind IN ('read', 'render')),
        session_id uuid NOT NULL,
        subject_id uuid NOT NULL,
        state text NOT NULL DEFAULT 'queued' CHECK (state IN ('queued', 'running', 'done', 'failed', 'cancelled')),
        progress real NOT NULL DEFAULT 0,
        attempt int NOT NULL DEFAULT 0,
        worker_id text,
        heartbeat_at timestamptz,
        problem jsonb,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX job_open ON job (state) WHERE state IN ('queued', 'running');
      CREATE TABLE recording (
        id uuid PRIMARY KEY,
        file_name text NOT NULL,
        size_bytes bigint NOT NULL,
        original_sha text NOT NULL,
        facts jsonb,
        blobs jsonb,
        job_id uuid NOT NULL REFERENCES job (id),
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE TABLE session (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        recording_id uuid NOT NULL REFERENCES recording (id),
        document jsonb,
        revision int NOT NULL DEFAULT 0,
        created_at timestamptz NOT NULL DEFAULT now(),
        updated_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE TABLE render (
        id uuid PRIMARY KEY,
        session_id uuid NOT NULL REFERENCES session (id) ON DELETE CASCADE,
        job_id uuid NOT NULL REFERENCES job (id),
        revision int NOT NULL,
        document jsonb NOT NULL,
        file_name text NOT NULL,
        file_sha text,
        report jsonb,
        created_at timestamptz NOT NULL DEFAULT now(),
        finished_at timestamptz
      );
      CREATE INDEX render_of_session ON render (session_id, created_at DESC);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE render; DROP TABLE session; DROP TABLE recording; DROP TABLE job;');
  }
}
