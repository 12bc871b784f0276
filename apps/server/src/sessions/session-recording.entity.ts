import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import { RecordingEntity } from '../recordings/recording.entity.js';

/** A recording that a session holds. */
@Entity('session_recording')
export class SessionRecordingEntity {
  @PrimaryColumn('uuid', { name: 'session_id' })
  sessionId!: string;

  @PrimaryColumn('uuid', { name: 'recording_id' })
  recordingId!: string;

  /** Its place among the others, as they were brought in. */
  @Column('int')
  place!: number;

  @ManyToOne(() => RecordingEntity, { eager: true })
  @JoinColumn({ name: 'recording_id' })
  recording!: Relation<RecordingEntity>;
}
