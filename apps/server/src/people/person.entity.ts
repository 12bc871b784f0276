import type { Role } from '@euphonos/contracts';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

@Entity('person')
export class PersonEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  /** Signs in with it, however it is spelt in capitals. */
  @Column('text')
  email!: string;

  /** argon2id, with its parameters and salt. */
  @Column('text', { name: 'password_hash' })
  passwordHash!: string;

  @Column('text')
  role!: Role;

  @Column('timestamptz', { name: 'disabled_at', nullable: true })
  disabledAt!: Date | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}

/** Somebody signed in on a device. */
@Entity('sign_in')
export class SignInEntity {
  @PrimaryColumn('uuid')
  id!: string;

  /** SHA-256 of what the cookie holds: whoever reads the database cannot sign in with it. */
  @Column('text', { name: 'secret_hash' })
  secretHash!: string;

  /** Goes with every change, so that no other page can make one with the cookie alone. */
  @Column('text')
  token!: string;

  @Column('uuid', { name: 'person_id' })
  personId!: string;

  @Column('text')
  agent!: string;

  @Column('timestamptz')
  since!: Date;

  @Column('timestamptz', { name: 'seen_at' })
  seenAt!: Date;
}

/** A link that makes an account, or renews the password of one. */
@Entity('invitation')
export class InvitationEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text', { name: 'secret_hash' })
  secretHash!: string;

  @Column('text')
  kind!: 'join' | 'renew';

  @Column('text')
  role!: Role;

  @Column('text')
  note!: string;

  @Column('uuid', { name: 'production_id', nullable: true })
  productionId!: string | null;

  @Column('uuid', { name: 'person_id', nullable: true })
  personId!: string | null;

  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @Column('timestamptz', { name: 'expires_at' })
  expiresAt!: Date;
}
