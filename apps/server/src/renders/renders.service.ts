import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import type { RenderView } from '@euphonos/contracts';
import { mixedTracks, parseDocument, requireTrack, WHOLE, type Track } from '@euphonos/engine';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { jobView, type JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { ProfilesService } from '../profiles/profiles.service.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { SessionsService } from '../sessions/sessions.service.js';
import { WorkPool } from '../workers/work-pool.js';
import type { TrackTask } from '../workers/protocol.js';
import { RenderEntity } from './render.entity.js';

const renderView = (render: RenderEntity): RenderView => ({
  id: render.id,
  sessionId: render.sessionId,
  revision: render.revision,
  target: render.document.target,
  fileName: render.fileName,
  createdAt: render.createdAt.toISOString(),
  job: jobView(render.job),
  report: render.report,
});

@Injectable()
export class RendersService implements OnModuleInit {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly sessions: SessionsService,
    private readonly profiles: ProfilesService,
    private readonly recordings: RecordingsService,
    private readonly pool: WorkPool,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onModuleInit(): void {
    this.jobs.register('render', {
      run: async (job, control) => {
        const render = await this.find(job.subjectId);
        const document = parseDocument(render.document);
        const alone = render.trackId !== null && render.trackId !== WHOLE;
        const tracks = alone ? [requireTrack(document, render.trackId!)] : mixedTracks(document);
        return this.pool.render(
          {
            tracks: await Promise.all(tracks.map((track) => this.#taskOf(track))),
            whole: alone ? { treatments: [] } : document.chain,
            target: document.target,
            sampleRateHz: document.sampleRateHz,
            mediaFolder: this.config.mediaFolder,
          },
          control,
        );
      },
      store: async (manager, job, { fileSha, report }) => {
        await manager.update(RenderEntity, { id: job.subjectId }, { fileSha, report, finishedAt: new Date() });
      },
    });
  }

  async #taskOf(track: Track): Promise<TrackTask> {
    const profile = track.noise?.kind === 'kept' ? (await this.profiles.find(track.noise.profileId)).file : null;
    const reel = await Promise.all(
      track.reel.map(async ({ recordingId, channels, startFrame, frames }) => {
        const { blobs } = await this.recordings.find(recordingId);
        return { startFrame, frames, paths: channels.map((channel) => this.store.path(blobs!.channels[channel]!)) };
      }),
    );
    return { track, profile, reel };
  }

  /**
   * Starts to render a track of a session, or the mix of all that are not muted (unless told), as it was saved at `revision`.
   * @throws {AppProblem} `stale-revision` when another one is the latest, `not-ready` while it is still read
   */
  async start(sessionId: string, revision: number, trackId: string | null = null): Promise<RenderView> {
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
    const alone = trackId !== null && trackId !== WHOLE;
    const track = document.tracks.find(({ id }) => id === trackId);
    if (alone && !track) throw new AppProblem(404, 'not-found', `This session has no track "${trackId}".`);
    if (!alone && mixedTracks(document).length === 0)
      throw new AppProblem(409, 'all-muted', 'Every track is muted; there is nothing to render. Let one be heard.');
    const name = track ? `${session.name}, ${track.name}` : session.name;
    const id = randomUUID();
    let job!: JobEntity;
    await this.dataSource.transaction(async (manager) => {
      job = await this.jobs.create(manager, 'render', sessionId, id);
      await manager.save(
        manager.create(RenderEntity, {
          id,
          sessionId,
          job,
          revision,
          document,
          trackId,
          fileName: `${name} (cleaned).wav`,
          fileSha: null,
          report: null,
          finishedAt: null,
        }),
      );
    });
    await this.jobs.announce(job);
    return renderView(await this.find(id));
  }

  async list(sessionId: string): Promise<RenderView[]> {
    await this.sessions.find(sessionId);
    const renders = await this.dataSource.manager.find(RenderEntity, { where: { sessionId }, order: { createdAt: 'DESC' }, take: 20 });
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

  async file(id: string): Promise<{ path: string; fileName: string }> {
    const { fileSha, fileName } = await this.find(id);
    if (!fileSha) throw new AppProblem(409, 'not-ready', 'This render has no file: it is not finished, or it was cancelled.');
    return { path: this.store.path(fileSha), fileName };
  }
}
