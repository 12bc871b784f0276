import { randomUUID } from 'node:crypto';
import { Injectable, type OnApplicationBootstrap, type OnModuleInit } from '@nestjs/common';
import { needsProfile, type SpanSeconds } from '@euphonos/dsp';
import type { Edit, NoiseSource, SessionDocument } from '@euphonos/engine';
import { DataSource, In, Not, type EntityManager } from 'typeorm';
import { EventsService } from '../events/events.service.js';
import type { JobEntity } from '../jobs/job.entity.js';
import { log } from '../log.js';
import { ProfileEntity } from '../profiles/profile.entity.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { IntakeService } from '../recordings/intake.service.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { listed, SessionEntity } from '../sessions/session.entity.js';
import { SurveyEntity } from '../surveys/survey.entity.js';
import { layTakes, type LaidTake } from './lay-take.js';
import { TakeEntity } from './take.entity.js';
import { TakeFiles } from './take-file.js';

const isOver = ({ state }: Pick<JobEntity, 'state'>): boolean => state !== 'queued' && state !== 'running';

/**
 * The way of a take into its session: a recording that has the take's own id, so it comes there once; and, once it has been surveyed or
 * cannot be, laid out there. Each step may be done again at any time, by any server.
 */
@Injectable()
export class TakeLanding implements OnModuleInit, OnApplicationBootstrap {
  constructor(
    private readonly dataSource: DataSource,
    private readonly events: EventsService,
    private readonly intake: IntakeService,
    private readonly files: TakeFiles,
  ) {}

  onModuleInit(): void {
    this.events.jobs.subscribe(({ job, subjectId }) => {
      if (job.kind === 'survey' && isOver(job)) void this.lay(subjectId);
    });
  }

  /** What was ended and had not come into its session when the server was killed comes there now. */
  async onApplicationBootstrap(): Promise<void> {
    for (const take of await this.dataSource.manager.findBy(TakeEntity, { state: 'ended' })) {
      await this.land(take).catch((error: unknown) => log.warn({ err: error, take: take.id }, 'take not landed'));
      await this.lay(take.id);
    }
  }

  /** As a recording of the session that has the id of the sitting. */
  async land(take: TakeEntity): Promise<void> {
    const { manager } = this.dataSource;
    const { id, name, frames, sittingId } = take;
    const held = await manager.findOneBy(SessionRecordingEntity, { recordingId: id });
    let sessionId = held?.sessionId;
    if (!sessionId) {
      const session = await manager.findOneBy(SessionEntity, { id: sittingId });
      const there = session && !session.deletedAt;
      // Takes that come after their session was deleted make another one.
      const newId = session ? randomUUID() : sittingId;
      const { stream, sizeBytes } = this.files.wav(take, frames);
      ({ sessionId } = await this.intake.bringIn(`${name}.wav`, stream, sizeBytes, {
        recordingId: id,
        madeBy: take.madeBy,
        isTake: true,
        ...(there ? { sessionId: sittingId } : { newSession: { id: newId, name: sittingName(take.startedAt), placing: 'sequence' } }),
      }));
    }
    await manager.update(TakeEntity, { id }, { recordingId: id, sessionId });
    await this.files.remove(id);
  }

  /** Never fails: a take that could not be laid is a recording of its session all the same, and is tried again. */
  async lay(takeId: string): Promise<void> {
    try {
      await this.dataSource.transaction((manager) => this.#lay(manager, takeId));
    } catch (error) {
      log.warn({ err: error, take: takeId }, 'take not laid');
    }
  }

  async #lay(manager: EntityManager, takeId: string): Promise<void> {
    const waiting = await manager.findOneBy(TakeEntity, { id: takeId, state: 'ended' });
    if (!waiting?.sessionId) return;
    // Whoever holds the session lays; of two servers the second one finds it done.
    const session = await manager.findOne(SessionEntity, { where: { id: waiting.sessionId }, lock: { mode: 'pessimistic_write' } });
    const take = await manager.findOneBy(TakeEntity, { id: takeId, state: 'ended' });
    const survey = await manager.findOneBy(SurveyEntity, { recordingId: takeId });
    if (!session?.document || !take || !survey || !isOver(survey.job)) return;
    const takes = await manager.find(TakeEntity, { where: { sessionId: session.id, state: Not('recording') }, order: { number: 'ASC' } });
    const recordings = await manager.findBy(RecordingEntity, { id: In(takes.map(({ id }) => id)) });
    const laid = takes.flatMap((one): LaidTake[] => {
      const recording = recordings.find(({ id }) => id === one.id);
      return recording?.facts && (one.state === 'landed' || one.id === take.id) ? [{ take: one, recording }] : [];
    });
    const surveys = await manager.findBy(SurveyEntity, { recordingId: In(laid.map(({ recording }) => recording.id)) });
    const pausesOf = (recordingId: string): readonly SpanSeconds[] | null =>
      surveys
        .find((one) => one.recordingId === recordingId)
        ?.survey?.findings.flatMap((finding) => (finding.kind === 'pauses' ? finding.spans : [])) ?? null;
    const first = takes.every(({ state }) => state !== 'landed') && session.revision <= 1;
    const noise = await this.#noiseOf(manager, take);
    const { document, edits } = layTakes(session.document, laid, take, { first, noise, pausesOf });
    await this.#save(manager, session, document, edits);
    await manager.update(TakeEntity, { id: take.id }, { state: 'landed' });
  }

  async #save(manager: EntityManager, { id, revision }: SessionEntity, document: SessionDocument, edits: readonly Edit[]): Promise<void> {
    await manager.update(SessionEntity, { id }, { document, ...listed(document), revision: revision + 1, updatedAt: new Date() });
    const [known] = (await manager.query('SELECT 1 FROM session_history WHERE session_id = $1', [id])) as object[];
    if (!known || edits.length === 0) return;
    // One step more for whoever has been at work: it can be undone there.
    await manager.query(
      `INSERT INTO session_step (session_id, place, edits)
       SELECT $1, coalesce(max(place) + 1, 0), $2::jsonb FROM session_step WHERE session_id = $1`,
      [id, JSON.stringify(edits)],
    );
    await manager.query(`UPDATE session_history SET future = '[]' WHERE session_id = $1`, [id]);
  }

  async #noiseOf(manager: EntityManager, { profileId, chain }: TakeEntity): Promise<NoiseSource | null> {
    if (!profileId || !chain?.treatments.some(needsProfile)) return null;
    const profile = await manager.findOneBy(ProfileEntity, { id: profileId });
    return profile && { kind: 'kept', profileId, name: profile.name };
  }
}

/** How the session of a sitting is called. */
const sittingName = (at: Date): string => `Recorded ${at.toISOString().slice(0, 16).replace('T', ', ')}`;
