import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Sessions by their cover; jobs of a session, and of a recording or a render: a list of batches with a thousand files looks each of them up. */
export class LookUps1765700000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE INDEX job_of_session ON job (session_id, state)');
    await runner.query(`CREATE INDEX session_cover ON session ((document->'cover'->>'sha256'))`);
    await runner.query('CREATE INDEX job_of_subject ON job (subject_id, created_at DESC)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX session_cover; DROP INDEX job_of_subject; DROP INDEX job_of_session');
  }
}
