import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What people say of sessions to each other, and who is here. */
export class Talk1765100000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE comment (
        id uuid PRIMARY KEY,
        session_id uuid NOT NULL REFERENCES session (id) ON DELETE CASCADE,
        answers uuid REFERENCES comment (id) ON DELETE CASCADE,
        person_id uuid REFERENCES person (id) ON DELETE SET NULL,
        person_name text,
        start_frame bigint,
        end_frame bigint,
        text text NOT NULL,
        revision int NOT NULL,
        at timestamptz NOT NULL DEFAULT now(),
        changed_at timestamptz,
        resolved_at timestamptz,
        resolved_by text
      );
      CREATE INDEX comment_of_session ON comment (session_id, at);
      CREATE TABLE acceptance (
        id bigserial PRIMARY KEY,
        session_id uuid NOT NULL REFERENCES session (id) ON DELETE CASCADE,
        person_id uuid REFERENCES person (id) ON DELETE SET NULL,
        person_name text,
        accepted boolean NOT NULL,
        note text NOT NULL,
        revision int NOT NULL,
        at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX acceptance_of_session ON acceptance (session_id, id);
      CREATE TABLE presence (
        window_id uuid PRIMARY KEY,
        person_id uuid NOT NULL REFERENCES person (id) ON DELETE CASCADE,
        session_id uuid REFERENCES session (id) ON DELETE SET NULL,
        seen_at timestamptz NOT NULL DEFAULT now()
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE presence, acceptance, comment');
  }
}
