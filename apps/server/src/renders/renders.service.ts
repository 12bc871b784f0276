import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { RenderView, StartPieces } from '@euphonos/contracts';
import {
  clipPieces,
  fileNameOf,
  formatFacts,
  formatOfName,
  mixedTracks,
  originalPieces,
  PLAIN_FILE,
  WHOLE,
  type SessionDocument,
  type Track,
} from '@euphonos/engine';
import { pictureMimeType } from '@euphonos/media';
import { format } from 'date-fns';
import { DataSource, type EntityManager } from 'typeorm';
import { jobView, type JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { ProductionEntity } from '../productions/production.entity.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import type { SessionEntity } from '../sessions/session.entity.js';
import { SessionsService } from '../sessions/sessions.service.js';
import { fileLike } from './file-like.js';
import { RenderEntity } from './render.entity.js';
import { RenderExtras, titleOf } from './render-extras.js';

/** More files at once than this are a batch: a single render of somebody else goes before them. */
const MOST_AT_ONCE = 8;
/** So many are listed: several deliveries with stems of every track. */
const MOST_LISTED = 400;
const MOST_PIECES = 300;

/** The day here and now, YYYY-MM-DD. */
const today = (): string => format(new Date(), 'yyyy-MM-dd');

/** The tracks of the mix. @throws {AppProblem} `all-muted` */
function requireHeard(document: SessionDocument): readonly Track[] {
  const tracks = mixedTracks(document);
  if (tracks.length === 0) throw new AppProblem(409, 'all-muted', 'Every track is muted; there is nothing to render. Let one be heard.');
  return tracks;
}

/** What is to be rendered. */
type Asked = Pick<RenderEntity, 'revision' | 'document' | 'trackId' | 'stem' | 'fileName'> &
  Partial<Pick<RenderEntity, 'piece' | 'keepOthers'>>;

const renderView = (render: RenderEntity): RenderView => ({
  id: render.id,
  sessionId: render.sessionId,
  revision: render.revision,
  target: render.document.target,
  fileName: render.fileName,
  stem: render.stem,
  piece: render.piece && { of: render.piece.of, fromSeconds: render.piece.fromSeconds, seconds: render.piece.seconds },
  createdAt: render.createdAt.toISOString(),
  job: jobView(render.job),
  report: render.report,
});

@Injectable()
export class RendersService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly sessions: SessionsService,
    private readonly recordings: RecordingsService,
    private readonly extras: RenderExtras,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  /** The document as it was saved at `revision`. @throws {AppProblem} `stale-revision`, `not-ready` */
  async #documentAt(sessionId: string, revision: number): Promise<{ readonly session: SessionEntity; readonly document: SessionDocument }> {
    const session = await this.sessions.find(sessionId);
    const { document } = session;
    if (!document || document.tracks.length === 0)
      throw new AppProblem(409, 'not-ready', 'The recording has not been read yet; there is nothing to render.');
    if (session.revision !== revision)
      throw new AppProblem(
        409,
        'stale-revision',
        `Revision ${revision} was asked for, ${session.revision} is saved. Load the session again.`,
        { revision: session.revision },
      );
    return { session, document };
  }

  /**
   * Starts to render a track of a session, or the mix of all that are not muted (unless told), as it was saved at `revision`.
   * @throws {AppProblem} `stale-revision` when another one is the latest, `not-ready` while it is still read
   */
  async start(
    sessionId: string,
    revision: number,
    trackId: string | null = null,
    intoPicture = false,
    keepOthers = true,
  ): Promise<RenderView> {
    const { session, document } = await this.#documentAt(sessionId, revision);
    const alone = trackId !== null && trackId !== WHOLE;
    const track = document.tracks.find(({ id }) => id === trackId);
    if (alone && !track) throw new AppProblem(404, 'not-found', `This session has no track "${trackId}".`);
    if (!alone) requireHeard(document);
    const ending = intoPicture ? await this.extras.requirePicture(document, alone ? [track!] : mixedTracks(document)) : null;
    const fileName = await this.#nameOf(this.dataSource.manager, session, document, track, ending);
    const [view] = await this.#enqueue(sessionId, [{ revision, document, trackId, stem: false, fileName, keepOthers }]);
    return view!;
  }

  /** How a delivery is called, by the pattern of its target. */
  async #nameOf(
    manager: EntityManager,
    { id: sessionId, name, productionId }: SessionEntity,
    { target }: SessionDocument,
    track?: Track,
    ending: string | null = null,
  ): Promise<string> {
    const production = productionId ? await manager.findOneBy(ProductionEntity, { id: productionId }) : null;
    const bare = fileNameOf(target.namePattern, {
      session: name,
      track: track?.name ?? null,
      production: production?.name ?? null,
      target: target.name,
      date: today(),
      number: 1 + (await manager.countBy(RenderEntity, { sessionId, stem: false })),
    });
    return `${bare}.${ending ?? formatFacts[target.file.format].ending}`;
  }

  /** Starts a file for each track of the mix, all of them or none. @throws {AppProblem} as `start` */
  async startStems(sessionId: string, revision: number): Promise<RenderView[]> {
    const { session, document } = await this.#documentAt(sessionId, revision);
    const stems = requireHeard(document).map((track) => ({
      revision,
      document,
      trackId: track.id,
      stem: true,
      fileName: `${session.name}, ${track.name} (stem).wav`,
    }));
    return this.#enqueue(sessionId, stems);
  }

  /** Starts to render a session as it is being saved at `revision`, in the caller's transaction: the job is to be announced. */
  async enqueueIn(manager: EntityManager, session: SessionEntity, revision: number, document: SessionDocument): Promise<JobEntity> {
    const fileName = await this.#nameOf(manager, session, document);
    return (await this.#put(manager, session.id, { revision, document, trackId: WHOLE, stem: false, fileName }, true)).job;
  }

  async #put(
    manager: EntityManager,
    sessionId: string,
    one: Asked,
    later: boolean,
  ): Promise<{ readonly id: string; readonly job: JobEntity }> {
    const id = randomUUID();
    const job = await this.jobs.create(manager, 'render', sessionId, id, later);
    const nothing = { piece: null, keepOthers: true, fileSha: null, report: null, passed: null, integratedLufs: null, finishedAt: null };
    await manager.save(manager.create(RenderEntity, { id, sessionId, job, ...nothing, ...one }));
    return { id, job };
  }

  /**
   * Starts a file for every clip, with handles, or one in the place of every recording; without a target, so that an editor puts them where the
   * originals were.
   * @throws {AppProblem} as `start`, `nothing-to-render`
   */
  async startPieces(sessionId: string, { revision, what, handleSeconds = 1 }: StartPieces): Promise<RenderView[]> {
    const { document } = await this.#documentAt(sessionId, revision);
    const { sampleRateHz } = document;
    const pieces = what === 'clips' ? clipPieces(document, Math.round(handleSeconds * sampleRateHz)) : originalPieces(document).pieces;
    if (pieces.length === 0 || pieces.length > MOST_PIECES)
      throw new AppProblem(
        409,
        'nothing-to-render',
        pieces.length === 0
          ? 'Nothing can be rendered so: what several tracks hear, each a channel of it, is none of them alone. Render stems.'
          : `These would be ${pieces.length} files; up to ${MOST_PIECES} are made at once. Render stems, or the recordings in place of the originals.`,
      );
    const asked = await Promise.all(
      pieces.map(async ({ trackId, document: bare, recordingId, startFrame, frames, clip }, i) => {
        const { fileName: original, facts } = await this.recordings.find(recordingId);
        const file = clip ? { ...PLAIN_FILE, bits: '32f' as const } : fileLike(original, facts!);
        const place = String(i + 1).padStart(3, '0');
        const fileName = clip ? `${place} ${titleOf(original)}.wav` : `${titleOf(original)}.${formatFacts[file.format].ending}`;
        const piece = {
          of: clip ? ('clip' as const) : ('original' as const),
          fromSeconds: startFrame / sampleRateHz,
          seconds: frames / sampleRateHz,
          file,
        };
        return { revision, document: bare, trackId, stem: true, fileName, piece };
      }),
    );
    return this.#enqueue(sessionId, asked);
  }

  async #enqueue(sessionId: string, asked: readonly Asked[]): Promise<RenderView[]> {
    const started: { readonly id: string; readonly job: JobEntity }[] = [];
    await this.dataSource.transaction(async (manager) => {
      for (const one of asked) started.push(await this.#put(manager, sessionId, one, asked.length > MOST_AT_ONCE));
    });
    for (const { job } of started) await this.jobs.announce(job);
    return Promise.all(started.map(async ({ id }) => renderView(await this.find(id))));
  }

  async list(sessionId: string): Promise<RenderView[]> {
    await this.sessions.find(sessionId);
    const renders = await this.dataSource.manager.find(RenderEntity, {
      where: { sessionId },
      order: { createdAt: 'DESC' },
      take: MOST_LISTED,
    });
    return renders.map(renderView);
  }

  async find(id: string): Promise<RenderEntity> {
    const render = await this.dataSource.manager.findOneBy(RenderEntity, { id });
    if (!render) throw notFound('render');
    return render;
  }

  async cancel(id: string): Promise<RenderView> {
    await this.jobs.cancel((await this.find(id)).job.id);
    return renderView(await this.find(id));
  }

  async file(id: string): Promise<{ path: string; fileName: string; mimeType: string }> {
    const { fileSha, fileName } = await this.find(id);
    if (!fileSha) throw new AppProblem(409, 'not-ready', 'This render has no file: it is not finished, or it was cancelled.');
    return {
      path: await this.store.path(fileSha),
      fileName,
      mimeType: pictureMimeType(fileName) ?? formatFacts[formatOfName(fileName) ?? 'wav'].mimeType,
    };
  }
}
