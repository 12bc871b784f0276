import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Work that nobody waits for comes after what somebody does; and who works. */
export class Work1765200000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE job ADD COLUMN later boolean NOT NULL DEFAULT false;
      CREATE TABLE worker (
        id text PRIMARY KEY,
        name text NOT NULL,
        serves boolean NOT NULL,
        started_at timestamptz NOT NULL DEFAULT now(),
        seen_at timestamptz NOT NULL DEFAULT now()
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE worker; ALTER TABLE job DROP COLUMN later;');
  }
}
