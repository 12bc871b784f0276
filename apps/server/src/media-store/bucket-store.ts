import { AsyncLocalStorage } from 'node:async_hooks';
import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { MediaError } from '@euphonos/media';
import { BoundedCache } from './bounded-cache.js';
import { Bucket } from './bucket.js';
import { shaOfFile } from './directory-store.js';
import { YOUNG_MS, type BucketSettings, type MediaStore, type Stored } from './media-store.js';
import type { Space } from './room.js';

/** Marks of what was used or came once more; old ones go. */
const MARKS = 'young/';
const MARKS_KEPT_MS = 3_600_000;
const CLOCK = 'clock';
const HELD_EVERY_MS = 60_000;
/** What is sent for long says of itself when that was begun (S3, multipart uploads): its mark is kept young. */
const MARK_EVERY_MS = 60_000;

const nameOf = (sha: string): string => `${sha.slice(0, 2)}/${sha.slice(2)}`;
const shaOf = (name: string): string | null => (/^[0-9a-f]{2}\/[0-9a-f]{62}$/.test(name) ? name.replace('/', '') : null);

/**
 * A bucket of an object store, with a folder of what is at hand. What is put is in the bucket when it is told to be stored; what is read comes
 * into the folder first, and is checked against its name.
 */
export class BucketStore implements MediaStore {
  readonly #bucket: Bucket;
  readonly #cache: BoundedCache;
  readonly #held = new AsyncLocalStorage<Set<string>>();
  readonly #coming = new Map<string, Promise<void>>();

  constructor(folder: string, settings: BucketSettings) {
    this.#bucket = new Bucket(settings);
    this.#cache = new BoundedCache(folder, settings.cacheBytes);
  }

  async path(sha: string): Promise<string> {
    this.#held.getStore()?.add(sha);
    if (!(await this.#cache.has(sha))) {
      const coming = this.#coming.get(sha) ?? this.#fetch(sha).finally(() => this.#coming.delete(sha));
      this.#coming.set(sha, coming);
      await coming;
    }
    return this.#cache.place(sha);
  }

  async #fetch(sha: string): Promise<void> {
    const path = await this.#cache.workPath();
    try {
      await this.#bucket.fetch(nameOf(sha), path);
      if ((await shaOfFile(path)) !== sha)
        throw new MediaError(
          'store-away',
          'The store gave other bytes than were put into it. Whoever looks after it should look at it; nothing was changed.',
        );
      const { size } = await stat(path);
      const target = this.#cache.place(sha);
      await mkdir(dirname(target), { recursive: true });
      await rename(path, target);
      await this.#cache.came(size);
    } finally {
      await rm(path, { force: true });
    }
  }

  async holding<Result>(work: () => Promise<Result>): Promise<Result> {
    const held = new Set<string>();
    const timer = setInterval(() => void Promise.all([...held].map((sha) => this.#cache.has(sha))), HELD_EVERY_MS);
    try {
      return await this.#held.run(held, work);
    } finally {
      clearInterval(timer);
    }
  }

  async put(bytes: AsyncIterable<Uint8Array>): Promise<Stored> {
    return this.#send(await this.#cache.put(bytes));
  }

  async adopt(path: string): Promise<Stored> {
    return this.#send(await this.#cache.adopt(path));
  }

  async link(path: string): Promise<Stored> {
    return this.#send(await this.#cache.link(path));
  }

  /** What has come into the folder goes into the bucket, where it is not there yet. */
  async #send(stored: Stored): Promise<Stored> {
    const { sha, sizeBytes } = stored;
    if (!(await this.touch(sha))) {
      const mark = (): Promise<void> => this.#bucket.mark(MARKS + sha);
      const timer = setInterval(() => void mark().catch(() => undefined), MARK_EVERY_MS);
      try {
        await this.#bucket.send(nameOf(sha), this.#cache.place(sha));
      } finally {
        clearInterval(timer);
      }
    }
    await this.#cache.came(sizeBytes);
    return stored;
  }

  async touch(sha: string): Promise<boolean> {
    // First the mark: whoever sweeps looks at it last.
    await this.#bucket.mark(MARKS + sha);
    return (await this.#bucket.find(nameOf(sha))) !== null;
  }

  async has(sha: string): Promise<boolean> {
    return (await this.#cache.has(sha)) || (await this.#bucket.find(nameOf(sha))) !== null;
  }

  /** The bucket has room; what is at hand comes again. */
  letGo(_: readonly string[], wantedBytes: number): Promise<number> {
    return this.#cache.letGoOf(wantedBytes);
  }

  async remove(shas: readonly string[]): Promise<void> {
    await this.#cache.remove(shas);
    for (const sha of shas) await this.#bucket.remove(nameOf(sha));
  }

  workPath(): Promise<string> {
    return this.#cache.workPath();
  }

  async requireRoom(expectedBytes: number | undefined): Promise<void> {
    await this.#cache.requireRoom(expectedBytes);
  }

  async check(): Promise<void> {
    await this.#cache.check();
    await this.#bucket.mark(CLOCK);
  }

  /** Of the folder's disk: what comes in passes through it. */
  space(): Promise<Space> {
    return this.#cache.space();
  }

  async *list(): AsyncGenerator<Stored> {
    for await (const { name, sizeBytes } of this.#bucket.list()) {
      const sha = shaOf(name);
      if (sha) yield { sha, sizeBytes };
    }
  }

  async sweep(keep: ReadonlySet<string>): Promise<number> {
    await this.#cache.sweep(keep);
    // By the service's own clock, whatever this machine's says.
    await this.#bucket.mark(CLOCK);
    const nowMs = (await this.#bucket.find(CLOCK))!.changedAt.getTime();
    const isYoung = (object: { readonly changedAt: Date } | null): boolean =>
      object !== null && nowMs - object.changedAt.getTime() < YOUNG_MS;
    let removed = 0;
    for await (const object of this.#bucket.list()) {
      const sha = shaOf(object.name);
      if (object.name.startsWith(MARKS) && nowMs - object.changedAt.getTime() > MARKS_KEPT_MS) await this.#bucket.remove(object.name);
      if (!sha || keep.has(sha) || isYoung(object) || isYoung(await this.#bucket.find(MARKS + sha))) continue;
      await this.#bucket.remove(object.name);
      removed++;
    }
    return removed;
  }
}
