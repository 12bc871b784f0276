import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { makePictureProxy } from '@euphonos/media';
import type { EntityManager } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import type { RecordingBlobs } from './recording.entity.js';
import { RecordingsService } from './recordings.service.js';

/** What became of a moving picture: its small copy, or why there is none. */
async function keepPicture(
  manager: EntityManager,
  { subjectId }: JobEntity,
  picture: NonNullable<RecordingBlobs['picture']>,
): Promise<void> {
  await manager.query(`UPDATE recording SET blobs = jsonb_set(blobs, '{picture}', $2) WHERE id = $1 AND blobs IS NOT NULL`, [
    subjectId,
    JSON.stringify(picture),
  ]);
}

/** The small copies of moving pictures that are seen beside the strips: made by jobs of their own. */
@Injectable()
export class PicturesService implements OnModuleInit {
  constructor(
    private readonly jobs: JobsService,
    private readonly recordings: RecordingsService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  onModuleInit(): void {
    this.jobs.register('picture', {
      run: async (job, control) => {
        const { originalSha } = await this.recordings.find(job.subjectId);
        const path = await this.store.workPath();
        const { soundAtSeconds } = await makePictureProxy(await this.store.path(originalSha), path, control.signal);
        return { sha: (await this.store.adopt(path)).sha, soundAtSeconds };
      },
      store: (manager, job, picture) => keepPicture(manager, job, picture),
      failed: async (manager, job) => {
        const { problem } = await manager.findOneByOrFail(JobEntity, { id: job.id });
        await keepPicture(manager, job, { problem: problem!.message });
      },
    });
  }
}
