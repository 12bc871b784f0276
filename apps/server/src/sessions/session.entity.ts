import type { Placing, SessionDocument } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';
import { endOf } from '@euphonos/engine';
import { storedDocument } from './stored-document.js';

/** What the list shows of a document. */
export const listed = ({ tracks, sampleRateHz }: SessionDocument): Pick<SessionEntity, 'seconds' | 'trackCount'> => ({
  seconds: Math.max(0, ...tracks.map(({ clips }) => endOf(clips))) / sampleRateHz,
  trackCount: tracks.length,
});

@Entity('session')
export class SessionEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  @Column('jsonb', { nullable: true, transformer: storedDocument })
  document!: SessionDocument | null;

  /** What it will be, once all its recordings have been read: it came in a bundle. */
  @Column('jsonb', { name: 'to_be', nullable: true, transformer: storedDocument })
  toBe!: SessionDocument | null;

  /** How its recordings are placed when it gets its document. */
  @Column('text', { name: 'arrangement', default: 'tracks' })
  placing!: Placing;

  /** More recordings are to come before it gets its document. */
  @Column('boolean', { default: false })
  gathering!: boolean;

  @Column('int', { default: 0 })
  revision!: number;

  /** Length of what it makes, and how many tracks: for the list, which reads no document. */
  @Column('double precision', { nullable: true })
  seconds!: number | null;

  @Column('int', { name: 'track_count', default: 0 })
  trackCount!: number;

  @Column('uuid', { name: 'production_id', nullable: true })
  productionId!: string | null;

  @Column('timestamptz', { name: 'archived_at', nullable: true })
  archivedAt!: Date | null;

  /** Deleted, and to be had back until it goes for good. */
  @Column('timestamptz', { name: 'deleted_at', nullable: true })
  deletedAt!: Date | null;

  /** Whose it is; null: made where there were no accounts, or by nobody. */
  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;

  @Column('timestamptz', { name: 'updated_at' })
  updatedAt!: Date;
}
