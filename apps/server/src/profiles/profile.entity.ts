import type { NoiseProfileFile } from '@euphonos/dsp';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

/** A kept noise profile. It outlives the session that it was taken in: the same room comes again. */
@Entity('noise_profile')
export class ProfileEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  @Column('uuid', { name: 'session_id', nullable: true })
  sessionId!: string | null;

  @Column('jsonb')
  file!: NoiseProfileFile;

  /** Whose it is; null: made where there were no accounts, or by nobody. */
  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}
