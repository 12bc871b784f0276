import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Surveys1764100000000 implements MigrationInterface {
  readonly name = 'Surveys1764100000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE job DROP CONSTRAINT job_kind_check;
      ALTER TABLE job ADD CONSTRAINT job_kind_check CHECK (kind IN ('read', 'render', 'survey'));
      CREATE TABLE survey (
        recording_id uuid PRIMARY KEY REFERENCES recording (id) ON DELETE CASCADE,
        job_id uuid NOT NULL REFERENCES job (id),
        survey jsonb
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE survey;
      DELETE FROM job WHERE kind = 'survey';
      ALTER TABLE job DROP CONSTRAINT job_kind_check;
      ALTER TABLE job ADD CONSTRAINT job_kind_check CHECK (kind IN ('read', 'render'));
    `);
  }
}
