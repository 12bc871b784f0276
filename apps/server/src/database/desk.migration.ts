import { endOf, parseDocument } from '@euphonos/engine';
import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Productions, archive, deletes that can be undone; what the list of sessions shows in columns of its own, so that no document is read for
 * it; verdicts of renders; stems; chains that are kept.
 */
export class Desk1764700000000 implements MigrationInterface {
  readonly name = 'Desk1764700000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE production (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        archived_at timestamptz,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      ALTER TABLE session ADD COLUMN production_id uuid REFERENCES production (id) ON DELETE SET NULL;
      ALTER TABLE session ADD COLUMN archived_at timestamptz;
      ALTER TABLE session ADD COLUMN deleted_at timestamptz;
      ALTER TABLE session ADD COLUMN seconds double precision;
      ALTER TABLE session ADD COLUMN track_count int NOT NULL DEFAULT 0;
      CREATE INDEX session_of_production ON session (production_id);
      CREATE INDEX session_changed ON session (updated_at DESC);
      ALTER TABLE render ADD COLUMN stem boolean NOT NULL DEFAULT false;
      ALTER TABLE render ADD COLUMN passed boolean;
      ALTER TABLE render ADD COLUMN integrated_lufs double precision;
      UPDATE render SET
        passed = NOT EXISTS (SELECT 1 FROM jsonb_array_elements(report->'lines') AS line WHERE line->>'passed' = 'false'),
        integrated_lufs = (report->'after'->>'integratedLufs')::double precision
      WHERE report IS NOT NULL;
      CREATE INDEX render_verdict ON render (session_id, finished_at DESC) WHERE passed IS NOT NULL;
      ALTER TABLE recording ADD COLUMN drift_ppm double precision NOT NULL DEFAULT 0;
      CREATE TABLE kept_chain (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        file jsonb NOT NULL,
        for_new boolean NOT NULL DEFAULT false,
        created_at timestamptz NOT NULL DEFAULT now(),
        updated_at timestamptz NOT NULL DEFAULT now()
      );
    `);
    const rows = (await runner.query('SELECT id, document FROM session WHERE document IS NOT NULL')) as { id: string; document: unknown }[];
    for (const { id, document } of rows) {
      const known = facts(document);
      if (known)
        await runner.query('UPDATE session SET seconds = $2, track_count = $3 WHERE id = $1', [id, known.seconds, known.trackCount]);
    }
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE kept_chain;
      ALTER TABLE recording DROP COLUMN drift_ppm;
      ALTER TABLE render DROP COLUMN integrated_lufs;
      ALTER TABLE render DROP COLUMN passed;
      ALTER TABLE render DROP COLUMN stem;
      ALTER TABLE session DROP COLUMN track_count;
      ALTER TABLE session DROP COLUMN seconds;
      ALTER TABLE session DROP COLUMN deleted_at;
      ALTER TABLE session DROP COLUMN archived_at;
      ALTER TABLE session DROP COLUMN production_id;
      DROP TABLE production;
    `);
  }
}

/** Of a document that cannot be read nothing is known. */
function facts(stored: unknown): { readonly seconds: number; readonly trackCount: number } | null {
  try {
    const { tracks, sampleRateHz } = parseDocument(stored);
    return { seconds: Math.max(0, ...tracks.map(({ clips }) => endOf(clips))) / sampleRateHz, trackCount: tracks.length };
  } catch {
    return null;
  }
}
