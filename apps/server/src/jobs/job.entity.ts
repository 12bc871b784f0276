import type { JobKind, JobState, JobView, Problem } from '@euphonos/contracts';
import { Column, CreateDateColumn, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A piece of long work. Its state here is the truth; the queue only says that there is something to look at. */
@Entity('job')
export class JobEntity {
  @PrimaryGeneratedColumn('uuid')
  id!: string;

  @Column('text')
  kind!: JobKind;

  @Column('uuid', { name: 'session_id' })
  sessionId!: string;

  @Column('uuid', { name: 'subject_id' })
  subjectId!: string;

  /** Nobody waits for it: what somebody waits for goes before it. */
  @Column('boolean', { default: false })
  later!: boolean;

  @Column('text', { default: 'queued' })
  state!: JobState;

  @Column('real', { default: 0 })
  progress!: number;

  /** Counts the starts. A worker may only write the result of the attempt that it claimed. */
  @Column('int', { default: 0 })
  attempt!: number;

  @Column('text', { name: 'worker_id', nullable: true })
  workerId!: string | null;

  @Column('timestamptz', { name: 'heartbeat_at', nullable: true })
  heartbeatAt!: Date | null;

  @Column('jsonb', { nullable: true })
  problem!: Problem | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}

export const jobView = ({ id, kind, state, progress, problem }: JobEntity): JobView => ({ id, kind, state, progress, problem });
