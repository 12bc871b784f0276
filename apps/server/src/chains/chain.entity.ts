import type { ChainFile } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

/** A chain that was kept under a name, for any session. */
@Entity('kept_chain')
export class ChainEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  @Column('jsonb')
  file!: ChainFile;

  /** Every recording that comes in gets it. */
  @Column('boolean', { name: 'for_new', default: false })
  forNew!: boolean;

  /** Whose it is; null: made where there were no accounts, or by nobody. */
  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;

  @Column('timestamptz', { name: 'updated_at' })
  updatedAt!: Date;
}
