import { Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { log } from '../log.js';
import { MEDIA_STORE, type MediaStore } from './media-store.js';

/** What a backup holds as long as it is made (scripts/lib/backup.mjs). */
const STORE_LOCK = 734_001;

/** Each SHA-256 that anything refers to. */
export const REFERENCED = `
  SELECT original_sha AS sha FROM recording
  UNION SELECT blobs->>'peaks' FROM recording
  UNION SELECT blobs->>'spectrogram' FROM recording
  UNION SELECT blobs->'picture'->>'sha' FROM recording
  UNION SELECT jsonb_array_elements_text(blobs->'channelPeaks') FROM recording
  UNION SELECT jsonb_array_elements_text(blobs->'channels') FROM recording
  UNION SELECT document->'cover'->>'sha256' FROM session
  UNION SELECT to_be->'cover'->>'sha256' FROM session
  UNION SELECT document->'cover'->>'sha256' FROM render
  UNION SELECT file_sha FROM render`;

/** Frees the space of bytes that nothing refers to any more. */
@Injectable()
export class StoreKeeper implements OnApplicationBootstrap {
  constructor(
    private readonly dataSource: DataSource,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  onApplicationBootstrap(): void {
    void this.tidy();
  }

  /** Never fails: what could not be freed now is freed another time. */
  async tidy(): Promise<void> {
    try {
      const freed = await this.dataSource.transaction(async (manager) => {
        // While a backup is made everything stays where it is.
        const [{ free }] = (await manager.query('SELECT pg_try_advisory_xact_lock_shared($1) AS free', [STORE_LOCK])) as [
          { free: boolean },
        ];
        if (!free) return 0;
        const rows = (await manager.query(REFERENCED)) as { sha: string | null }[];
        return this.store.sweep(new Set(rows.flatMap(({ sha }) => sha ?? [])));
      });
      if (freed > 0) log.info({ files: freed }, 'space freed');
    } catch (error) {
      log.warn({ err: error }, 'could not tidy the store');
    }
  }
}
