import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A code from a device beside the password: its secret, one that is being set up, and the last time step that was taken. */
export class SecondStep1765500000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE person ADD COLUMN code_secret text, ADD COLUMN code_pending text, ADD COLUMN code_step bigint NOT NULL DEFAULT 0`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE person DROP COLUMN code_step, DROP COLUMN code_pending, DROP COLUMN code_secret');
  }
}
