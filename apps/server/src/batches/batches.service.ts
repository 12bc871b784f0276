import { randomUUID } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { BatchItemView, BatchRow, BatchStep, BatchView, ChangeBatchItems, StartBatch } from '@euphonos/contracts';
import { findingsFor, type Finding } from '@euphonos/dsp';
import { chainOfFile, missesOf, parseChainFile, prepare, requireTarget, type SessionDocument } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';
import { DataSource, In } from 'typeorm';
import type { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { ProfilesService } from '../profiles/profiles.service.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { askerId, seesAll } from '../rights/asker.js';
import { RendersService } from '../renders/renders.service.js';
import { listed, SessionEntity } from '../sessions/session.entity.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SurveysService } from '../surveys/surveys.service.js';
import { BatchEntity, BatchItemEntity } from './batch.entity.js';
import { ITEMS, ROWS, type RawItem, type RawRow } from './batch-queries.js';
import { folderName } from './watched-folder.js';

const SURVEY_POLL_MS = 400;

/** What a recording gets, and what of it should be heard. */
interface PreparedItem {
  readonly document: SessionDocument;
  readonly needsEar: readonly string[];
}

/** Cleans many recordings, each by itself: what fails does not stop the rest. */
@Injectable()
export class BatchesService implements OnModuleInit {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly recordings: RecordingsService,
    private readonly surveys: SurveysService,
    private readonly profiles: ProfilesService,
    private readonly renders: RendersService,
  ) {}

  onModuleInit(): void {
    // A recording that has been read is treated next, in the transaction that says that it has been read.
    this.recordings.onRead(async (manager, sessionId) =>
      (await manager.existsBy(BatchItemEntity, { sessionId })) && (await manager.existsBy(SessionEntity, { id: sessionId, revision: 1 }))
        ? [await this.jobs.create(manager, 'batch', sessionId, sessionId, true)]
        : [],
    );
    this.jobs.register<PreparedItem>('batch', {
      run: (job, { signal, progress }) => this.#prepare(job.sessionId, signal, progress),
      store: async (manager, { sessionId }, { document, needsEar }) => {
        await manager.update(BatchItemEntity, { sessionId }, { needsEar });
        const session = await manager.findOneByOrFail(SessionEntity, { id: sessionId });
        const revision = session.revision + 1;
        await manager.update(SessionEntity, { id: sessionId }, { document, ...listed(document), revision, updatedAt: new Date() });
        return [await this.renders.enqueueIn(manager, session, revision, document)];
      },
    });
  }

  async #prepare(sessionId: string, signal: AbortSignal, progress: (share: number) => void): Promise<PreparedItem> {
    const { manager } = this.dataSource;
    const item = await manager.findOneByOrFail(BatchItemEntity, { sessionId });
    const { chain, target, profileId } = await this.#find(item.batchId);
    const { document } = await manager.findOneByOrFail(SessionEntity, { id: sessionId });
    const [held] = await manager.findBy(SessionRecordingEntity, { sessionId });
    const findings = await this.#findings(held!.recordingId, document!, signal, progress);
    const { chain: made, passage, needsEar } = prepare(chain && chainOfFile(chain, randomUUID), findings, profileId !== null);
    const { sampleRateHz } = document!;
    const kept = profileId === null ? null : await this.profiles.find(profileId);
    const noise = kept
      ? ({ kind: 'kept', profileId: kept.id, name: kept.name } as const)
      : passage && {
          kind: 'passages' as const,
          spans: [{ startFrame: Math.ceil(passage.startSeconds * sampleRateHz), endFrame: Math.floor(passage.endSeconds * sampleRateHz) }],
        };
    const named = { treatments: made.treatments.map((settings, i) => ({ ...settings, id: settings.id ?? `b${i + 1}` })) };
    return {
      document: { ...document!, target, tracks: document!.tracks.map((track) => ({ ...track, chain: named, noise: noise ?? null })) },
      needsEar,
    };
  }

  /** What the survey finds on the channels that are used; it is waited for. */
  async #findings(
    recordingId: string,
    { tracks }: SessionDocument,
    signal: AbortSignal,
    progress: (share: number) => void,
  ): Promise<readonly Finding[]> {
    for (;;) {
      if (signal.aborted) throw new MediaError('cancelled', 'Cancelled.');
      const { job, survey } = await this.surveys.of(recordingId);
      if (survey) return findingsFor(survey.findings, [...new Set(tracks.flatMap(({ reel }) => reel[0]!.channels))].sort());
      if (job.state === 'failed' || job.state === 'cancelled')
        throw new AppProblem(422, 'survey-failed', job.problem?.message ?? 'Its survey was cancelled.');
      progress(job.progress);
      await wait(SURVEY_POLL_MS);
    }
  }

  async #find(id: string): Promise<BatchEntity> {
    const batch = await this.dataSource.manager.findOneBy(BatchEntity, { id });
    if (!batch) throw notFound('batch');
    return batch;
  }

  /** @throws {EngineError | DspError} for a chain or a target that cannot be read */
  async start({ name, chain, target, profileId, watching }: StartBatch): Promise<BatchView> {
    if (profileId) await this.profiles.find(profileId);
    const { manager } = this.dataSource;
    const id = randomUUID();
    await manager.save(
      manager.create(BatchEntity, {
        id,
        name,
        chain: chain ? parseChainFile(chain) : null,
        target: requireTarget(target),
        profileId: profileId ?? null,
        folder: watching ? folderName(name, id) : null,
        madeBy: askerId(),
      }),
    );
    return this.view(id);
  }

  async list(): Promise<BatchRow[]> {
    const rows = (await this.dataSource.query(ROWS, [seesAll() ? null : askerId(), seesAll()])) as RawRow[];
    return rows.map(({ created_at, ...row }) => ({ ...row, createdAt: created_at.toISOString() }));
  }

  async view(id: string): Promise<BatchView> {
    const { name, createdAt, target, chain, folder } = await this.#find(id);
    const rows = (await this.dataSource.query(ITEMS, [id])) as RawItem[];
    return {
      id,
      name,
      createdAt: createdAt.toISOString(),
      target,
      chainName: chain && chain.name,
      folder,
      items: rows.map(itemView),
    };
  }

  /** Takes note of what was heard; does again what failed. */
  async change(id: string, { sessionIds, accepted, again }: ChangeBatchItems): Promise<BatchView> {
    await this.#find(id);
    const jobs: JobEntity[] = [];
    await this.dataSource.transaction(async (manager) => {
      const items = await manager.findBy(BatchItemEntity, { batchId: id, sessionId: In(sessionIds) });
      const ids = items.map(({ sessionId }) => sessionId);
      if (accepted !== undefined) await manager.update(BatchItemEntity, { sessionId: In(ids) }, { accepted });
      for (const sessionId of again ? ids : []) {
        const session = await manager.findOneByOrFail(SessionEntity, { id: sessionId });
        if (!session.document) continue;
        await manager.update(BatchItemEntity, { sessionId }, { accepted: false });
        jobs.push(await this.jobs.create(manager, 'batch', sessionId, sessionId, true));
      }
    });
    for (const job of jobs) await this.jobs.announce(job);
    return this.view(id);
  }

  /** The list goes; its sessions stay like any others. */
  async remove(id: string): Promise<void> {
    await this.#find(id);
    await this.dataSource.manager.delete(BatchEntity, { id });
  }
}

function itemView(raw: RawItem): BatchItemView {
  const [step, job] = stepOf(raw);
  const { report } = raw;
  return {
    sessionId: raw.session_id,
    recordingId: raw.recording_id,
    fileName: raw.file_name,
    seconds: raw.seconds,
    step,
    job: { state: job?.state ?? 'queued', progress: job?.progress ?? 0 },
    problem: step === 'failed' ? (job?.problem?.message ?? 'It broke off.') : null,
    needsEar: [...raw.needs_ear, ...(report ? missesOf(report.lines) : [])],
    accepted: raw.accepted,
    renderId: report ? raw.render_id : null,
    resultName: raw.result_name,
    passed: raw.passed,
    integratedLufs: report?.after.integratedLufs ?? null,
    noiseFloorDbfs: [raw.floor, report?.after.noiseFloorDbfs ?? null],
  };
}

type RawJob = NonNullable<RawItem['read_job']>;
const broke = (job: RawJob | null): boolean => job?.state === 'failed' || job?.state === 'cancelled';

/** How far it is, and the job that decides it. */
function stepOf({ read_job: read, batch_job: batch, render_job: render }: RawItem): readonly [BatchStep, RawJob | null] {
  if (read?.state !== 'done') return [broke(read) ? 'failed' : 'reading', read];
  if (batch?.state !== 'done') return [broke(batch) ? 'failed' : 'treating', batch];
  if (render?.state !== 'done') return [broke(render) ? 'failed' : 'rendering', render];
  return ['done', render];
}
