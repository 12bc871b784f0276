import { Injectable } from '@nestjs/common';
import { KEPT_DAYS, type RecordingView, type SavedDocument, type SavedSteps, type SessionView } from '@euphonos/contracts';
import { parseDocument, type SessionDocument } from '@euphonos/engine';
import { DataSource, In, IsNull, Not, type EntityManager } from 'typeorm';
import { TALK_CHANNEL } from '../events/events.service.js';
import { JobEntity } from '../jobs/job.entity.js';
import { StoreKeeper } from '../media-store/store-keeper.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { recordingView } from '../recordings/recording-view.js';
import { RightsService } from '../rights/rights.service.js';
import { SessionRecordingEntity } from './session-recording.entity.js';
import { RenderEntity } from '../renders/render.entity.js';
import { listed, SessionEntity } from './session.entity.js';
import { StepsService } from './steps.service.js';

@Injectable()
export class SessionsService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly keeper: StoreKeeper,
    private readonly steps: StepsService,
    private readonly rights: RightsService,
  ) {}

  async view(id: string): Promise<SessionView> {
    const [view] = await this.#atOnce(async (manager) =>
      this.#views(manager, await manager.findBy(SessionEntity, { id, deletedAt: IsNull() })),
    );
    if (!view) throw await this.#missing(id);
    return view;
  }

  /** All of it as it was at one moment: else a session could be seen without the document that came with the end of its reading. */
  #atOnce<Result>(read: (manager: EntityManager) => Promise<Result>): Promise<Result> {
    return this.dataSource.transaction('REPEATABLE READ', read);
  }

  async find(id: string): Promise<SessionEntity> {
    const session = await this.dataSource.manager.findOneBy(SessionEntity, { id, deletedAt: IsNull() });
    if (!session) throw await this.#missing(id);
    return session;
  }

  async #missing(id: string): Promise<AppProblem> {
    if (!(await this.dataSource.manager.existsBy(SessionEntity, { id }))) return notFound('session');
    return new AppProblem(
      404,
      'session-deleted',
      `This session was deleted. For ${KEPT_DAYS} days it can be brought back: Intake, Deleted.`,
      { days: KEPT_DAYS },
    );
  }

  async #views(manager: EntityManager, sessions: readonly SessionEntity[]): Promise<SessionView[]> {
    const finished = await manager.find(RenderEntity, {
      where: { sessionId: In(sessions.map(({ id }) => id)), report: Not(IsNull()) },
      order: { finishedAt: 'ASC' },
    });
    const held = await manager.find(SessionRecordingEntity, {
      where: { sessionId: In(sessions.map(({ id }) => id)) },
      order: { place: 'ASC' },
    });
    const recordings = new Map<string, RecordingView[]>();
    for (const { sessionId, recording } of held)
      recordings.set(sessionId, [...(recordings.get(sessionId) ?? []), recordingView(recording)]);
    const may = await this.rights.mayWithSessions();
    const latest = new Map(finished.map((render) => [render.sessionId, render]));
    return sessions.map((session) => {
      const last = latest.get(session.id);
      return {
        id: session.id,
        name: session.name,
        document: session.document,
        revision: session.revision,
        createdAt: session.createdAt.toISOString(),
        updatedAt: session.updatedAt.toISOString(),
        recording: recordings.get(session.id)![0]!,
        recordings: recordings.get(session.id)!,
        gathering: session.gathering,
        productionId: session.productionId,
        may: may(session.madeBy, session.productionId),
        lastDelivery: last?.report
          ? {
              passed: last.report.lines.every(({ passed }) => passed !== false),
              integratedLufs: last.report.after.integratedLufs,
              finishedAt: last.finishedAt!.toISOString(),
            }
          : null,
      };
    });
  }

  /**
   * Saves a document made from `revision`. Two savers of the same revision cannot both win.
   * @throws {AppProblem} `stale-revision` with the present one; {EngineError | DspError} when it is not readable
   */
  async save(id: string, revision: number, given: unknown, steps?: SavedSteps): Promise<SavedDocument> {
    const document = parseDocument(given);
    const session = await this.find(id);
    await this.#requireOwnRecordings(session, document);
    const updatedAt = new Date();
    const saved = await this.dataSource.transaction(async (manager) => {
      const { affected } = await manager.update(
        SessionEntity,
        { id, revision },
        { document, ...listed(document), revision: revision + 1, updatedAt },
      );
      if (affected !== 1) return null;
      // Whoever hears it is told that there is something new.
      await manager.query('SELECT pg_notify($1, $2)', [TALK_CHANNEL, JSON.stringify({ sessionId: id })]);
      const stepsKept = await this.steps.save(manager, id, steps);
      return { revision: revision + 1, updatedAt: updatedAt.toISOString(), stepsKept };
    });
    if (saved) return saved;
    const present = await this.find(id);
    throw new AppProblem(
      409,
      'stale-revision',
      `This session was changed elsewhere at ${present.updatedAt.toISOString()} (revision ${present.revision}; yours started from ${revision}). Nothing was overwritten: load the newer state, or save yours over it.`,
      { revision: present.revision, updatedAt: present.updatedAt.toISOString() },
    );
  }

  async #requireOwnRecordings({ id }: SessionEntity, document: SessionDocument): Promise<void> {
    const held = await this.dataSource.manager.findBy(SessionRecordingEntity, { sessionId: id });
    const facts = new Map(held.map(({ recordingId, recording }) => [recordingId, recording.facts]));
    for (const track of document.tracks)
      for (const part of track.reel) {
        const known = facts.get(part.recordingId);
        if (!known || part.frames !== known.lengthFrames || part.channels.some((c) => c >= known.channels))
          throw new AppProblem(
            422,
            'track-outside',
            `The track "${track.id}" asks for something that the recordings of this session do not have.`,
          );
      }
  }

  async rename(id: string, name: string): Promise<SessionView> {
    await this.find(id);
    await this.dataSource.manager.update(SessionEntity, { id }, { name });
    return this.view(id);
  }

  /** Puts a session where it can be had back for a while. */
  async remove(id: string): Promise<void> {
    await this.find(id);
    await this.dataSource.manager.update(SessionEntity, { id }, { deletedAt: new Date() });
  }

  /** Forgets a session for good, with its recordings, renders and jobs, and frees their space unless another session uses it. */
  async forget(id: string): Promise<void> {
    if (!(await this.dataSource.manager.existsBy(SessionEntity, { id }))) throw notFound('session');
    await this.dataSource.transaction(async (manager) => {
      const held = await manager.findBy(SessionRecordingEntity, { sessionId: id });
      // A job that is at work finds that its claim is gone, and writes nothing.
      await manager.delete(SessionEntity, { id });
      await manager.delete(RecordingEntity, { id: In(held.map(({ recordingId }) => recordingId)) });
      await manager.delete(JobEntity, { sessionId: id });
    });
    void this.keeper.tidy();
  }
}
