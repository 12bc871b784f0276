import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { SurveyView } from '@euphonos/contracts';
import { MOST_SURVEYED_CHANNELS, SURVEY_VERSION, type Survey } from '@euphonos/dsp';
import { DataSource } from 'typeorm';
import { BatchItemEntity } from '../batches/batch.entity.js';
import { EventsService } from '../events/events.service.js';
import { jobView, type JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { log } from '../log.js';
import { AppProblem } from '../problems/app-problem.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { SamplesService } from '../recordings/samples.service.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { WorkPool } from '../workers/work-pool.js';
import { SurveyEntity } from './survey.entity.js';

const view = ({ recordingId, job, survey }: SurveyEntity): SurveyView => ({ recordingId, job: jobView(job), survey });

/** Surveys every recording once it has been read, and those of older days when somebody asks. */
@Injectable()
export class SurveysService implements OnModuleInit {
  constructor(
    private readonly dataSource: DataSource,
    private readonly events: EventsService,
    private readonly jobs: JobsService,
    private readonly recordings: RecordingsService,
    private readonly samples: SamplesService,
    private readonly pool: WorkPool,
  ) {}

  onModuleInit(): void {
    this.jobs.register('survey', {
      run: async (job, control) => {
        const { facts } = await this.recordings.find(job.subjectId);
        const known = await this.#surveyOf(job.subjectId);
        if (known) return known;
        const channels = Array.from({ length: Math.min(facts!.channels, MOST_SURVEYED_CHANNELS) }, (_, channel) => channel);
        const channelPaths = await this.samples.paths(job.subjectId, channels);
        return this.pool.survey({ channelPaths, sampleRateHz: facts!.sampleRateHz, lengthFrames: facts!.lengthFrames }, control);
      },
      store: async (manager, job, survey) => {
        await manager.update(SurveyEntity, { recordingId: job.subjectId }, { survey });
      },
    });
    this.events.jobs.subscribe(({ job, subjectId }) => {
      if (job.kind !== 'read' || job.state !== 'done') return;
      this.of(subjectId).catch((error: unknown) => log.warn({ err: error }, 'survey not started'));
    });
  }

  /** A survey of the same samples, made for another recording. */
  async #surveyOf(recordingId: string): Promise<Survey | null> {
    const [same] = (await this.dataSource.query(
      `SELECT survey.survey FROM recording AS one JOIN recording AS other ON other.blobs->'channels' = one.blobs->'channels' AND other.id <> one.id
       JOIN survey ON survey.recording_id = other.id AND (survey.survey->>'version')::int = $2 WHERE one.id = $1 LIMIT 1`,
      [recordingId, SURVEY_VERSION],
    )) as { survey: Survey }[];
    return same?.survey ?? null;
  }

  /**
   * The survey of a recording; started when there is none, when it is one of an earlier version, or when the last one
   * failed or was cancelled and `again`.
   * @throws {AppProblem} `not-ready` while it is still read
   */
  async of(recordingId: string, again = false): Promise<SurveyView> {
    const recording = await this.recordings.find(recordingId);
    if (!recording.blobs) throw new AppProblem(409, 'not-ready', 'The recording has not been read yet; it is surveyed afterwards.');
    const known = await this.dataSource.manager.findOneBy(SurveyEntity, { recordingId });
    const outdated = known?.survey != null && known.survey.version !== SURVEY_VERSION && known.job.state === 'done';
    if (known && !outdated && !(again && (known.job.state === 'failed' || known.job.state === 'cancelled'))) return view(known);
    let job: JobEntity | undefined;
    await this.dataSource.transaction(async (manager) => {
      const { sessionId } = await manager.findOneByOrFail(SessionRecordingEntity, { recordingId });
      // Two may ask at once: the first one's row holds.
      const later = await manager.existsBy(BatchItemEntity, { sessionId });
      const made = await this.jobs.create(manager, 'survey', sessionId, recordingId, later);
      const rows = (
        known
          ? await manager.query(`UPDATE survey SET job_id = $2, survey = NULL WHERE recording_id = $1 AND job_id = $3 RETURNING job_id`, [
              recordingId,
              made.id,
              known.job.id,
            ])
          : await manager.query(`INSERT INTO survey (recording_id, job_id) VALUES ($1, $2) ON CONFLICT DO NOTHING RETURNING job_id`, [
              recordingId,
              made.id,
            ])
      ) as unknown[];
      const changed = known ? (rows[1] as number) : rows.length;
      if (changed > 0) job = made;
      else await manager.delete('job', { id: made.id });
    });
    if (job) await this.jobs.announce(job);
    return view(await this.dataSource.manager.findOneByOrFail(SurveyEntity, { recordingId }));
  }
}
