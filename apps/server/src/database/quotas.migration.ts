import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How much somebody, and a production, may hold; null: as much as there is. */
export class Quotas1765300000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE person ADD COLUMN most_bytes bigint; ALTER TABLE production ADD COLUMN most_bytes bigint;');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE production DROP COLUMN most_bytes; ALTER TABLE person DROP COLUMN most_bytes;');
  }
}
