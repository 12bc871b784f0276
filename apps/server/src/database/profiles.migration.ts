import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Profiles1764200000000 implements MigrationInterface {
  readonly name = 'Profiles1764200000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE noise_profile (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        session_id uuid REFERENCES session (id) ON DELETE SET NULL,
        file jsonb NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      ALTER TABLE render ADD COLUMN clip_id text;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE render DROP COLUMN clip_id; DROP TABLE noise_profile;');
  }
}
