import type { Placing, SessionDocument } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';
import { storedDocument } from './stored-document.js';

@Entity('session')
export class SessionEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  @Column('jsonb', { nullable: true, transformer: storedDocument })
  document!: SessionDocument | null;

  /** How its recordings are placed when it gets its document. */
  @Column('text', { name: 'arrangement', default: 'tracks' })
  placing!: Placing;

  /** More recordings are to come before it gets its document. */
  @Column('boolean', { default: false })
  gathering!: boolean;

  @Column('int', { default: 0 })
  revision!: number;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;

  @Column('timestamptz', { name: 'updated_at' })
  updatedAt!: Date;
}
