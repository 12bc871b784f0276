import { Injectable } from '@nestjs/common';
import type { ChangeTake, EndTake, StartTake, TakeView } from '@euphonos/contracts';
import { parseChainFile } from '@euphonos/engine';
import { DataSource, IsNull, Not, Or } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { asker, askerId, seesAll } from '../rights/asker.js';
import { RightsService } from '../rights/rights.service.js';
import { SessionEntity } from '../sessions/session.entity.js';
import { TakeEntity } from './take.entity.js';
import { TakeFiles } from './take-file.js';
import { TakeLanding } from './take-landing.js';
import { readGaps, readMarks } from './take-shape.js';

/** Takes while they are recorded. */
@Injectable()
export class TakesService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly files: TakeFiles,
    private readonly landing: TakeLanding,
    private readonly rights: RightsService,
  ) {}

  /** Idempotent: a page that does not know whether it was heard says it again. @throws {EngineError | DspError} for a chain that cannot be read */
  async start(given: StartTake): Promise<TakeView> {
    const { manager } = this.dataSource;
    const known = await manager.findOneBy(TakeEntity, { id: given.id });
    if (known && this.#isOwn(known)) return this.#view(known);
    await this.#requireOwnSitting(given);
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
        madeBy: askerId(),
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
    const frames = await this.files.append(take, from, bytes);
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
    const there = await this.files.frames(take);
    if (there < frames)
      throw new AppProblem(409, 'take-incomplete', `Only ${there} of ${frames} frames have arrived. Send the rest, then end it.`, {
        frames: there,
      });
    await this.dataSource.manager.update(TakeEntity, { id }, { state: 'ended', frames, marks, gaps });
    await this.landing.land(await this.#find(id));
    return this.#view(await this.#find(id));
  }

  /** What was begun and not ended is thrown away. */
  async drop(id: string): Promise<void> {
    const take = await this.#find(id);
    if (take.state !== 'recording') throw new AppProblem(409, 'take-ended', 'This take is in its session; delete it there.');
    await this.dataSource.manager.delete(TakeEntity, { id });
    await this.files.remove(id);
  }

  async view(id: string): Promise<TakeView> {
    const take = await this.#find(id);
    // Whoever waits for it finds out what became of it, also where the news of its survey was missed.
    if (take.state === 'ended') await this.landing.lay(id);
    return this.#view(await this.#find(id));
  }

  /** Those of a sitting, or those that were never ended. */
  async list(sittingId?: string): Promise<TakeView[]> {
    const takes = await this.dataSource.manager.find(TakeEntity, {
      where: { ...(sittingId ? { sittingId } : { state: 'recording' }), ...(seesAll() ? {} : { madeBy: askerId()! }) },
      order: { startedAt: 'ASC' },
      take: 500,
    });
    return Promise.all(takes.map((take) => this.#view(take)));
  }

  #isOwn({ madeBy }: TakeEntity): boolean {
    return seesAll() || madeBy === askerId();
  }

  /** A sitting becomes a session, so its id must be no other person's sitting, session or take. */
  async #requireOwnSitting({ id, sittingId }: StartTake): Promise<void> {
    const person = asker();
    if (!person || seesAll()) return;
    const { manager } = this.dataSource;
    const others = await manager.existsBy(TakeEntity, [
      { id, madeBy: Or(IsNull(), Not(person.personId)) },
      { sittingId, madeBy: Or(IsNull(), Not(person.personId)) },
    ]);
    const session = await manager.existsBy(SessionEntity, { id: sittingId });
    if (others || (session && (await this.rights.may(person, 'session', sittingId)) !== 'change')) throw notFound('sitting');
  }

  async #find(id: string): Promise<TakeEntity> {
    const take = await this.dataSource.manager.findOneBy(TakeEntity, { id });
    if (!take) throw notFound('take');
    return take;
  }

  /** Why one that was ended does not come into its session. */
  async #problemOf({ state, recordingId }: TakeEntity): Promise<string | null> {
    if (state !== 'ended' || recordingId === null) return null;
    const recording = await this.dataSource.manager.findOneBy(RecordingEntity, { id: recordingId });
    return recording?.job.problem?.message ?? null;
  }

  async #view(take: TakeEntity): Promise<TakeView> {
    const { chain: _, profileId: __, ...shown } = take;
    const startedAt = take.startedAt.toISOString();
    if (take.state !== 'recording') return { ...shown, startedAt, silentSeconds: null, problem: await this.#problemOf(take) };
    const { frames, changedAt } = await this.files.state(take);
    const silentSeconds = (Date.now() - Math.max(changedAt?.getTime() ?? 0, take.startedAt.getTime())) / 1000;
    return { ...shown, startedAt, frames, silentSeconds, problem: null };
  }
}
