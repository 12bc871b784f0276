import type { TakeGap, TakeMark, TakeState } from '@euphonos/contracts';
import type { TakeFigures } from '@euphonos/dsp';
import type { ChainFile } from '@euphonos/engine';
import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

const whole = { to: (value: number) => value, from: Number };

/** Something that is or was recorded here. Its samples lie in a file of their own until it comes into its session. */
@Entity('take')
export class TakeEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  /** Which take of its sitting, from 1 on. */
  @Column('int')
  number!: number;

  @Column('text')
  state!: TakeState;

  /** Takes of one sitting come into one session. */
  @Column('uuid', { name: 'sitting_id' })
  sittingId!: string;

  @Column('uuid', { name: 'session_id', nullable: true })
  sessionId!: string | null;

  @Column('uuid', { name: 'recording_id', nullable: true })
  recordingId!: string | null;

  @Column('int', { name: 'sample_rate_hz' })
  sampleRateHz!: number;

  @Column('int')
  channels!: number;

  @Column('text')
  device!: string;

  /** How many frames it has, once it was ended. */
  @Column('bigint', { transformer: whole, default: 0 })
  frames!: number;

  @Column('int', { name: 'pre_roll_frames' })
  preRollFrames!: number;

  @Column('jsonb', { default: [] })
  marks!: readonly TakeMark[];

  @Column('jsonb', { default: [] })
  gaps!: readonly TakeGap[];

  @Column('jsonb', { nullable: true })
  chain!: ChainFile | null;

  @Column('uuid', { name: 'profile_id', nullable: true })
  profileId!: string | null;

  @Column('jsonb', { nullable: true })
  figures!: TakeFigures | null;

  /** Whose it is; null: made where there were no accounts, or by nobody. */
  @Column('uuid', { name: 'made_by', nullable: true })
  madeBy!: string | null;

  @CreateDateColumn({ name: 'started_at', type: 'timestamptz' })
  startedAt!: Date;
}
