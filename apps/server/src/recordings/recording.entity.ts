import type { RecordingFacts } from '@euphonos/contracts';
import { Column, CreateDateColumn, Entity, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';

/** Where the samples of a recording lie in the store. */
export interface RecordingBlobs {
  /** 32-bit float samples, one file a channel. */
  readonly channels: readonly string[];
  /** Of all channels together … */
  readonly peaks: string;
  /** … and of each by itself, where there are several; recordings that were read earlier have none. */
  readonly channelPeaks?: readonly string[];
  readonly spectrogram: string;
  /** A small copy of its moving picture, once it is made, or why it could not be. */
  readonly picture?: { readonly sha: string; readonly soundAtSeconds: number } | { readonly problem: string };
}

@Entity('recording')
export class RecordingEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text', { name: 'file_name' })
  fileName!: string;

  @Column('bigint', { name: 'size_bytes', transformer: { to: (value: number) => value, from: Number } })
  sizeBytes!: number;

  @Column('text', { name: 'original_sha' })
  originalSha!: string;

  /** The rate of the session that it joins; null for one of its own. */
  @Column('int', { name: 'rate_hz', nullable: true })
  rateHz!: number | null;

  /** It is made so many parts per million longer when it is read: the drift of its clock, taken out. */
  @Column('double precision', { name: 'drift_ppm', default: 0 })
  driftPpm!: number;

  @Column('jsonb', { nullable: true })
  facts!: RecordingFacts | null;

  @Column('jsonb', { nullable: true })
  blobs!: RecordingBlobs | null;

  @ManyToOne(() => JobEntity, { eager: true })
  @JoinColumn({ name: 'job_id' })
  job!: Relation<JobEntity>;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}
