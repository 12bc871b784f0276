import type { Space } from './room.js';

/** What a store is opened with, also by the threads that work. */
export interface StoreSettings {
  /** A folder: the store itself, or what is at hand of one that is elsewhere. */
  readonly folder: string;
  /** An object store; left out, the folder is the store. */
  readonly bucket?: BucketSettings;
}

/** A bucket of a service that speaks the S3 protocol; its keys come from the environment, as AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY. */
export interface BucketSettings {
  readonly name: string;
  /** Before the name of each object: '' or 'folder/'. */
  readonly prefix: string;
  /** Address of the service; left out, that of the region. */
  readonly endpoint?: string;
  readonly region: string;
  /** What is at hand on this machine is held to this, beside what is in use. */
  readonly cacheBytes: number;
}

/** Bytes may be in the store for so long before anything refers to them: the first of eight channels of a day, until the last one is there. */
export const YOUNG_MS = 15 * 60_000;

export interface Stored {
  readonly sha: string;
  readonly sizeBytes: number;
}

/** Bytes by their SHA-256. What is in it never changes; putting the same bytes twice keeps one copy. */
export interface MediaStore {
  /** Whether a file of that size can come in. @throws {MediaError} `file-large`, `disk-full` */
  requireRoom(expectedBytes: number | undefined): Promise<void>;
  space(): Promise<Space>;
  /** Whether anything can be put into it. @throws {MediaError} why not */
  check(): Promise<void>;
  /** All that it holds, without work files. */
  list(): AsyncGenerator<Stored>;
  /** Takes a stream to its end. Nothing stays behind when it breaks off. */
  put(bytes: AsyncIterable<Uint8Array>): Promise<Stored>;
  /** Takes over a finished file, which is moved. */
  adopt(path: string): Promise<Stored>;
  /** The same for one that stays where it lies, on the same disk: it is there under both names. */
  link(path: string): Promise<Stored>;
  /**
   * A local path to read from, for the next minutes; for longer inside of `holding`.
   * @throws {MediaError} `file-missing`, `store-away`, `disk-full`
   */
  path(sha: string): Promise<string>;
  /** Whatever `work` asks the path of stays where it is until it has ended. */
  holding<Result>(work: () => Promise<Result>): Promise<Result>;
  /** Keeps bytes from being swept for a moment, as if they had just come; false where they are not there. */
  touch(sha: string): Promise<boolean>;
  /** Whether they are there; they count as just used then. */
  has(sha: string): Promise<boolean>;
  /**
   * Lets go of bytes that can be made again, as far as they have not been used for days, those that were not used for longest first, until so
   * much is free. Returns how much became free.
   */
  letGo(shas: readonly string[], wantedBytes: number): Promise<number>;
  /** Removes bytes at once; those that are not there are passed over. */
  remove(shas: readonly string[]): Promise<void>;
  /** A path for a work file, beside the store so that adopting it is a rename. */
  workPath(): Promise<string>;
  /** Removes what is not in `keep`, and work files of processes that were killed. Returns the number of files. */
  sweep(keep: ReadonlySet<string>): Promise<number>;
}

/** Names what lies at a path of a store: its bytes never change, whatever the times of the file say. */
export const etagOf = (path: string): string => `"${path.split('/').slice(-2).join('')}"`;

export const MEDIA_STORE = Symbol('MediaStore');
