import type { RenderReport } from '@euphonos/contracts';
import type { SessionDocument } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';
import { storedDocument } from '../sessions/stored-document.js';

@Entity('render')
export class RenderEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('uuid', { name: 'session_id' })
  sessionId!: string;

  @ManyToOne(() => JobEntity, { eager: true })
  @JoinColumn({ name: 'job_id' })
  job!: Relation<JobEntity>;

  @Column('int')
  revision!: number;

  /** The document as it was when the render was asked for. */
  @Column('jsonb', { transformer: storedDocument })
  document!: SessionDocument;

  /** Which track by itself; null or "whole" for the mix. */
  @Column('text', { name: 'track_id', nullable: true })
  trackId!: string | null;

  @Column('text', { name: 'file_name' })
  fileName!: string;

  @Column('text', { name: 'file_sha', nullable: true })
  fileSha!: string | null;

  @Column('jsonb', { nullable: true })
  report!: RenderReport | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;

  @Column('timestamptz', { name: 'finished_at', nullable: true })
  finishedAt!: Date | null;
}
