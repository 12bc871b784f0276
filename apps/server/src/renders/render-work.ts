import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { endOf, mixChannels, mixedTracks, parseDocument, requireTrack, WHOLE, type Track } from '@euphonos/engine';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { JobsService } from '../jobs/jobs.service.js';
import { ProfilesService } from '../profiles/profiles.service.js';
import { SamplesService } from '../recordings/samples.service.js';
import type { TrackTask } from '../workers/protocol.js';
import { WorkPool } from '../workers/work-pool.js';
import { RenderEntity } from './render.entity.js';
import { RenderExtras } from './render-extras.js';
import { RenderParts } from './render-parts.js';

/** Does what a render asks for: gathers what it is made of, has it computed, writes what came out. */
@Injectable()
export class RenderWork implements OnModuleInit {
  constructor(
    private readonly dataSource: DataSource,
    private readonly jobs: JobsService,
    private readonly profiles: ProfilesService,
    private readonly samples: SamplesService,
    private readonly pool: WorkPool,
    private readonly extras: RenderExtras,
    private readonly parts: RenderParts,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  onModuleInit(): void {
    this.jobs.register('render', {
      run: async (job, control) => {
        const render = await this.dataSource.manager.findOneByOrFail(RenderEntity, { id: job.subjectId });
        const document = parseDocument(render.document);
        const alone = render.trackId !== null && render.trackId !== WHOLE;
        const tracks = alone ? [requireTrack(document, render.trackId!)] : mixedTracks(document);
        const task = {
          tracks: await Promise.all(tracks.map((track) => this.#taskOf(track))),
          whole: alone ? { treatments: [] } : document.chain,
          wholeNoise: alone ? [] : document.wholeNoise,
          target: document.target,
          extras: await this.extras.of(render, document, tracks),
          cover: await this.extras.coverOf(document, tracks),
          picture: await this.extras.pictureOf(render, tracks),
          stem: render.stem
            ? {
                channels: mixChannels(mixedTracks(document)),
                frames: Math.max(...mixedTracks(document).map(({ clips }) => endOf(clips))),
                file: render.piece?.file ?? null,
              }
            : null,
          sampleRateHz: document.sampleRateHz,
          parts: null,
          store: this.config.store,
        };
        const partFrames = this.parts.framesAt(document.sampleRateHz);
        // A stem is written as it is made, and what is shorter than a part has none.
        const isKept = !task.stem && Math.max(...tracks.map(({ clips }) => endOf(clips))) > partFrames;
        const key = isKept ? this.parts.keyOf(task) : '';
        const parts = isKept ? { partFrames, label: render.id, held: await this.parts.find(render.id, key) } : null;
        return this.pool.render({ ...task, parts }, control, (part) => this.parts.keep(job, key, part));
      },
      store: async (manager, job, { fileSha, report }) => {
        await manager.update(
          RenderEntity,
          { id: job.subjectId },
          {
            fileSha,
            report,
            passed: report && report.lines.every(({ passed }) => passed !== false),
            integratedLufs: report?.after.integratedLufs ?? null,
            finishedAt: new Date(),
          },
        );
      },
      after: (job) => this.parts.letGo(job),
    });
  }

  async #taskOf(track: Track): Promise<TrackTask> {
    const profile = track.noise?.kind === 'kept' ? (await this.profiles.find(track.noise.profileId)).file : null;
    const reel = await Promise.all(
      track.reel.map(async ({ recordingId, channels, startFrame, frames }) => {
        return { startFrame, frames, paths: await this.samples.paths(recordingId, channels) };
      }),
    );
    return { track, profile, reel };
  }
}
