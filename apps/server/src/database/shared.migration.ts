import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Several people on one installation: accounts, what is shared with whom, who did what. What was there before belongs to nobody by name, so to the owners. */
export class Shared1765000000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE person (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        email text NOT NULL,
        password_hash text NOT NULL,
        role text NOT NULL CHECK (role IN ('owner', 'engineer', 'listener')),
        disabled_at timestamptz,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE UNIQUE INDEX person_email ON person (lower(email));
      CREATE TABLE wrong_password (
        email_hash text PRIMARY KEY,
        times int NOT NULL DEFAULT 1,
        at timestamptz NOT NULL DEFAULT now(),
        locked_until timestamptz
      );
      CREATE TABLE sign_in (
        id uuid PRIMARY KEY,
        secret_hash text NOT NULL UNIQUE,
        token text NOT NULL,
        person_id uuid NOT NULL REFERENCES person (id) ON DELETE CASCADE,
        agent text NOT NULL,
        since timestamptz NOT NULL DEFAULT now(),
        seen_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX sign_in_of_person ON sign_in (person_id);
      CREATE TABLE invitation (
        id uuid PRIMARY KEY,
        secret_hash text NOT NULL UNIQUE,
        kind text NOT NULL CHECK (kind IN ('join', 'renew')),
        role text NOT NULL,
        note text NOT NULL,
        production_id uuid REFERENCES production (id) ON DELETE CASCADE,
        person_id uuid REFERENCES person (id) ON DELETE CASCADE,
        made_by uuid REFERENCES person (id) ON DELETE SET NULL,
        expires_at timestamptz NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE TABLE production_person (
        production_id uuid NOT NULL REFERENCES production (id) ON DELETE CASCADE,
        person_id uuid NOT NULL REFERENCES person (id) ON DELETE CASCADE,
        share text NOT NULL CHECK (share IN ('engineer', 'listener')),
        PRIMARY KEY (production_id, person_id)
      );
      CREATE INDEX production_of_person ON production_person (person_id);
      CREATE TABLE done (
        id bigserial PRIMARY KEY,
        at timestamptz NOT NULL DEFAULT now(),
        until timestamptz NOT NULL DEFAULT now(),
        times int NOT NULL DEFAULT 1,
        person_id uuid,
        person_name text,
        action text NOT NULL,
        subject_kind text,
        subject_id text,
        subject_name text
      );
      CREATE INDEX done_by ON done (person_id, id);
      ALTER TABLE session ADD COLUMN made_by uuid REFERENCES person (id) ON DELETE SET NULL;
      ALTER TABLE take ADD COLUMN made_by uuid REFERENCES person (id) ON DELETE SET NULL;
      ALTER TABLE batch ADD COLUMN made_by uuid REFERENCES person (id) ON DELETE SET NULL;
      ALTER TABLE kept_chain ADD COLUMN made_by uuid REFERENCES person (id) ON DELETE SET NULL;
      ALTER TABLE noise_profile ADD COLUMN made_by uuid REFERENCES person (id) ON DELETE SET NULL;
      ALTER TABLE session_hold ADD COLUMN person_id uuid REFERENCES person (id) ON DELETE SET NULL;
      CREATE INDEX session_made_by ON session (made_by);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE session_hold DROP COLUMN person_id;
      ALTER TABLE noise_profile DROP COLUMN made_by;
      ALTER TABLE kept_chain DROP COLUMN made_by;
      ALTER TABLE batch DROP COLUMN made_by;
      ALTER TABLE take DROP COLUMN made_by;
      ALTER TABLE session DROP COLUMN made_by;
      DROP TABLE done, production_person, invitation, sign_in, wrong_password, person;
    `);
  }
}
