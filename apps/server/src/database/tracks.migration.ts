import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Chains belong to tracks from now on: a render names its track. */
export class Tracks1764300000000 implements MigrationInterface {
  readonly name = 'Tracks1764300000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE render RENAME COLUMN clip_id TO track_id;
      UPDATE render SET track_id = 'track' || substr(track_id, 5) WHERE track_id LIKE 'clip%';
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      UPDATE render SET track_id = 'clip' || substr(track_id, 6) WHERE track_id LIKE 'track%';
      ALTER TABLE render RENAME COLUMN track_id TO clip_id;
    `);
  }
}
