import type { Survey } from '@euphonos/dsp';
import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';

/** What was measured of a recording: one survey each. */
@Entity('survey')
export class SurveyEntity {
  @PrimaryColumn('uuid', { name: 'recording_id' })
  recordingId!: string;

  @ManyToOne(() => JobEntity, { eager: true })
  @JoinColumn({ name: 'job_id' })
  job!: Relation<JobEntity>;

  @Column('jsonb', { nullable: true })
  survey!: Survey | null;
}
