import type { MigrationInterface, QueryRunner } from 'typeorm';

/** When the password was given last on a device: asked for again before what is grave. */
export class Proven1765400000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE sign_in ADD COLUMN proven_at timestamptz NOT NULL DEFAULT now()');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE sign_in DROP COLUMN proven_at');
  }
}
