import type { ChainFile, DeliveryTarget } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

/** Many recordings, each cleaned by itself to one target. Each is a session like any other. */
@Entity('batch')
export class BatchEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  /** For all of them; null: each gets what its own survey suggests. */
  @Column('jsonb', { nullable: true })
  chain!: ChainFile | null;

  @Column('jsonb')
  target!: DeliveryTarget;

  /** The kept noise profile of all of them; null: each its own. */
  @Column('uuid', { name: 'profile_id', nullable: true })
  profileId!: string | null;

  /** Name of the folder that is watched for it. */
  @Column('text', { nullable: true })
  folder!: string | null;

  /** Whose it is; null: made where there were no accounts, or by nobody. */
  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}

@Entity('batch_item')
export class BatchItemEntity {
  @PrimaryColumn('uuid', { name: 'session_id' })
  sessionId!: string;

  @Column('uuid', { name: 'batch_id' })
  batchId!: string;

  @Column('int')
  place!: number;

  @Column('jsonb', { name: 'needs_ear', default: [] })
  needsEar!: readonly string[];

  @Column('boolean', { default: false })
  accepted!: boolean;

  /** The render whose file lies in the watched folder's results. */
  @Column('uuid', { name: 'put_out', nullable: true })
  putOut!: string | null;
}
