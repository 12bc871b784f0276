import type { PieceView, RenderReport } from '@euphonos/contracts';
import type { FileSpec, SessionDocument } from '@euphonos/engine';
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

  /** It is the track as it is in the mix, for whoever mixes elsewhere. */
  @Column('boolean', { default: false })
  stem!: boolean;

  /** It is a clip or a recording for an editor, written so; then it is a stem, too: nothing is asked of it. */
  @Column('jsonb', { nullable: true })
  piece!: (PieceView & { readonly file: FileSpec }) | null;

  /** Into a picture: its other sound tracks and subtitles go along. */
  @Column('boolean', { name: 'keep_others', default: true })
  keepOthers!: boolean;

  @Column('text', { name: 'file_name' })
  fileName!: string;

  @Column('text', { name: 'file_sha', nullable: true })
  fileSha!: string | null;

  @Column('jsonb', { nullable: true })
  report!: RenderReport | null;

  /** Whether nothing that was asked is missed, and how loud it is: for the list; null until it is finished, and for stems. */
  @Column('boolean', { nullable: true })
  passed!: boolean | null;

  @Column('double precision', { name: 'integrated_lufs', nullable: true })
  integratedLufs!: number | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;

  @Column('timestamptz', { name: 'finished_at', nullable: true })
  finishedAt!: Date | null;
}
