import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleInit } from '@nestjs/common';
import type { ChangeTake, EndTake, StartTake, TakeView } from '@euphonos/contracts';
import { needsProfile, type SpanSeconds } from '@euphonos/dsp';
import { parseChainFile, type Edit, type NoiseSource, type SessionDocument } from '@euphonos/engine';
import { DataSource, In, Not, type EntityManager } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import type { JobEntity } from '../jobs/job.entity.js';
import { log } from '../log.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { ProfileEntity } from '../profiles/profile.entity.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { listed, SessionEntity } from '../sessions/session.entity.js';
import { SurveyEntity } from '../surveys/survey.entity.js';
import { SurveysService } from '../surveys/surveys.service.js';
import { layTakes, type LaidTake } from './lay-take.js';
import { TakeEntity } from './take.entity.js';
import { readGaps, readMarks } from './take-shape.js';
import { TakeFiles } from './take-file.js';

/** Takes while they are recorded, and their way into a session. What a take is in a session has its own id: it comes there once. */
@Injectable()
export class TakesService implements OnModuleInit, OnApplicationBootstrap {
  readonly #files: TakeFiles;

  constructor(
    private readonly dataSource: DataSource,
    private readonly recordings: RecordingsService,
    private readonly surveys: SurveysService,
    @Inject(SERVER_CONFIG) config: ServerConfig,
  ) {
    this.#files = new TakeFiles(config.takesFolder);
  }

  onModuleInit(): void {
    this.surveys.onSurveyed((manager, job) => this.#lay(manager, job));
  }

  /** What was ended and did not come into its session before the server was killed comes there now. */
  async onApplicationBootstrap(): Promise<void> {
    const left = await this.dataSource.manager.findBy(TakeEntity, { state: 'ended' });
    for (const take of left) await this.#land(take).catch((error: unknown) => log.warn({ err: error, take: take.id }, 'take not landed'));
  }

  /** Idempotent: a page that does not know whether it was heard says it again. @throws {EngineError | DspError} for a chain that cannot be read */
  async start(given: StartTake): Promise<TakeView> {
    const { manager } = this.dataSource;
    const known = await manager.findOneBy(TakeEntity, { id: given.id });
    if (known) return this.#view(known);
    const chain = given.chain ? parseChainFile(given.chain) : null;
    const take = await this.dataSource.transaction(async (inside) => {
      await inside.query('SELECT pg_advisory_xact_lock(hashtext($1))', [given.sittingId]);
      const [{ most }] = (await inside.query('SELECT coalesce(max(number), 0) AS most FROM take WHERE sitting_id = $1', [
        given.sittingId,
      ])) as [{ most: number }];
      const made = inside.create(TakeEntity, {
        ...given,
        chain,
        profileId: given.profileId ?? null,
        number: most + 1,
        state: 'recording',
        sessionId: null,
        recordingId: null,
        frames: 0,
        marks: [],
        gaps: [],
        figures: null,
      });
      return inside.save(made);
    });
    return this.#view(take);
  }

  /** @returns how much is there now. @throws {AppProblem} `take-gap` when something is missing before, `take-ended` */
  async append(id: string, from: number, bytes: Buffer): Promise<{ frames: number }> {
    const take = await this.#find(id);
    if (bytes.length % (4 * take.channels) !== 0)
      throw new AppProblem(
        422,
        'take-bytes',
        `A frame of this take has ${4 * take.channels} bytes; ${bytes.length} bytes are no whole frames.`,
      );
    if (take.state !== 'recording') throw new AppProblem(409, 'take-ended', 'This take was ended; nothing was added to it.');
    const frames = await this.#files.append(take, from, bytes);
    if (frames < from)
      throw new AppProblem(
        409,
        'take-gap',
        `The take has ${frames} frames here; what begins at ${from} does not follow. Send from ${frames} on.`,
        {
          frames,
        },
      );
    return { frames };
  }

  async change(id: string, { name, marks, figures }: ChangeTake): Promise<TakeView> {
    await this.#find(id);
    const set = { ...(name && { name }), ...(marks && { marks: readMarks(marks) }), ...(figures && { figures }) };
    if (Object.keys(set).length > 0) await this.dataSource.manager.update(TakeEntity, { id }, set);
    return this.#view(await this.#find(id));
  }

  /** All of it is there: it comes into the session of its sitting. @throws {AppProblem} `take-incomplete` */
  async end(id: string, { frames, ...given }: EndTake): Promise<TakeView> {
    const [marks, gaps] = [readMarks(given.marks), readGaps(given.gaps)];
    const take = await this.#find(id);
    if (take.state !== 'recording') return this.#view(take);
    const there = await this.#files.frames(take);
    if (there < frames)
      throw new AppProblem(409, 'take-incomplete', `Only ${there} of ${frames} frames have arrived. Send the rest, then end it.`, {
        frames: there,
      });
    await this.dataSource.manager.update(TakeEntity, { id }, { state: 'ended', frames, marks, gaps });
    await this.#land(await this.#find(id));
    return this.#view(await this.#find(id));
  }

  /** What was begun and not ended is thrown away. */
  async drop(id: string): Promise<void> {
    const take = await this.#find(id);
    if (take.state !== 'recording') throw new AppProblem(409, 'take-ended', 'This take is in its session; delete it there.');
    await this.dataSource.manager.delete(TakeEntity, { id });
    await this.#files.remove(id);
  }

  async view(id: string): Promise<TakeView> {
    return this.#view(await this.#find(id));
  }

  /** Those of a sitting, or those that were never ended. */
  async list(sittingId?: string): Promise<TakeView[]> {
    const takes = await this.dataSource.manager.find(TakeEntity, {
      where: sittingId ? { sittingId } : { state: 'recording' },
      order: { startedAt: 'ASC' },
      take: 500,
    });
    return Promise.all(takes.map((take) => this.#view(take)));
  }

  /** As a recording of the session that has the id of the sitting; done twice it is there once. */
  async #land(take: TakeEntity): Promise<void> {
    const { manager } = this.dataSource;
    const { id, name, frames, sittingId } = take;
    const session = await manager.findOneBy(SessionEntity, { id: sittingId });
    // Takes that come after their session was deleted make another one.
    const sessionId = take.sessionId ?? (session?.deletedAt ? randomUUID() : sittingId);
    if (!(await manager.existsBy(RecordingEntity, { id }))) {
      const there = session && !session.deletedAt;
      const { stream, sizeBytes } = this.#files.wav(take, frames);
      await this.recordings.bringIn(`${name}.wav`, stream, sizeBytes, {
        recordingId: id,
        ...(there ? { sessionId } : { newSession: { id: sessionId, name: sittingName(take.startedAt), placing: 'sequence' } }),
      });
    }
    await manager.update(TakeEntity, { id }, { recordingId: id, sessionId });
    await this.#files.remove(id);
  }

  /** Once it has been surveyed (or could not be), a take is laid into its session, with its chain and its marks. */
  async #lay(manager: EntityManager, { subjectId, sessionId }: JobEntity): Promise<void> {
    const take = await manager.findOneBy(TakeEntity, { id: subjectId, state: 'ended' });
    if (!take) return;
    const session = await manager.findOne(SessionEntity, { where: { id: sessionId }, lock: { mode: 'pessimistic_write' } });
    if (!session?.document) return;
    const takes = await manager.find(TakeEntity, {
      where: { sittingId: take.sittingId, state: Not('recording') },
      order: { number: 'ASC' },
    });
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

  async #find(id: string): Promise<TakeEntity> {
    const take = await this.dataSource.manager.findOneBy(TakeEntity, { id });
    if (!take) throw notFound('take');
    return take;
  }

  async #view(take: TakeEntity): Promise<TakeView> {
    const { chain: _, profileId: __, ...shown } = take;
    const startedAt = take.startedAt.toISOString();
    if (take.state !== 'recording') return { ...shown, startedAt, silentSeconds: null };
    const { frames, changedAt } = await this.#files.state(take);
    const silentSeconds = (Date.now() - Math.max(changedAt?.getTime() ?? 0, take.startedAt.getTime())) / 1000;
    return { ...shown, startedAt, frames, silentSeconds };
  }
}

/** How the session of a sitting is called. */
const sittingName = (at: Date): string => `Recorded ${at.toISOString().slice(0, 16).replace('T', ', ')}`;
