import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Parts of long renders that are there already: so many are complete, of what (`key`), the bytes of the last of them, and what chains remember at its end. */
export class RenderParts1765600000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE render_part (
        render_id uuid NOT NULL REFERENCES render (id) ON DELETE CASCADE,
        parts int NOT NULL CHECK (parts > 0),
        key text NOT NULL,
        sha text NOT NULL,
        memories bytea,
        PRIMARY KEY (render_id, parts)
      )`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE render_part');
  }
}
