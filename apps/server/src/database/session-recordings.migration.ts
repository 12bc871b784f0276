import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A session holds several recordings: in the order in which they were brought in. How they are to be placed, until it has a document. */
export class SessionRecordings1764500000000 implements MigrationInterface {
  readonly name = 'SessionRecordings1764500000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE session_recording (
        session_id uuid NOT NULL REFERENCES session (id) ON DELETE CASCADE,
        recording_id uuid NOT NULL REFERENCES recording (id) ON DELETE CASCADE,
        place int NOT NULL,
        PRIMARY KEY (session_id, recording_id)
      );
      CREATE INDEX session_of_recording ON session_recording (recording_id);
      INSERT INTO session_recording (session_id, recording_id, place) SELECT id, recording_id, 0 FROM session;
      ALTER TABLE session DROP COLUMN recording_id;
      ALTER TABLE session ADD COLUMN arrangement text NOT NULL DEFAULT 'tracks' CHECK (arrangement IN ('tracks', 'sequence'));
      ALTER TABLE session ADD COLUMN gathering boolean NOT NULL DEFAULT false;
      ALTER TABLE recording ADD COLUMN rate_hz int;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE recording DROP COLUMN rate_hz;
      ALTER TABLE session DROP COLUMN gathering;
      ALTER TABLE session DROP COLUMN arrangement;
      ALTER TABLE session ADD COLUMN recording_id uuid REFERENCES recording (id);
      UPDATE session SET recording_id = (SELECT recording_id FROM session_recording WHERE session_id = session.id ORDER BY place LIMIT 1);
      ALTER TABLE session ALTER COLUMN recording_id SET NOT NULL;
      DROP TABLE session_recording;
    `);
  }
}
