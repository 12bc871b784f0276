import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  DeleteObjectCommand,
  GetObjectCommand,
  HeadObjectCommand,
  ListObjectsV2Command,
  PutObjectCommand,
  S3Client,
} from '@aws-sdk/client-s3';
import { Upload } from '@aws-sdk/lib-storage';
import { asMediaError, MediaError } from '@euphonos/media';
import type { BucketSettings } from './media-store.js';

/** What is larger goes in parts, each sent again by itself when it is lost; a service takes 10 000 parts of at least 5 MiB (S3, limits of multipart uploads). */
const PART_BYTES = 16 * 2 ** 20;
const MOST_PARTS = 9_000;
/** So many parts are on their way at once, and in memory. */
const PARTS_AT_ONCE = 3;
/** A request is made so often before its failure is told. */
const ATTEMPTS = 4;
const CONNECT_MS = 5_000;
/** Without a byte of an answer. */
const SILENT_MS = 60_000;
const PAUSE_MS = 300;

export interface BucketObject {
  readonly name: string;
  readonly sizeBytes: number;
  /** By the clock of the service. */
  readonly changedAt: Date;
}

interface ServiceError {
  readonly name?: string;
  readonly message?: string;
  readonly code?: string;
  readonly $metadata?: { readonly httpStatusCode?: number };
}

const isMissing = ({ name, $metadata }: ServiceError): boolean =>
  name === 'NoSuchKey' || (name !== 'NoSuchBucket' && $metadata?.httpStatusCode === 404);

/** The objects of one bucket under a prefix, by their names behind it. */
export class Bucket {
  readonly #client: S3Client;

  constructor(private readonly settings: BucketSettings) {
    const { endpoint, region } = settings;
    this.#client = new S3Client({
      region,
      ...(endpoint === undefined ? {} : { endpoint, forcePathStyle: true }),
      maxAttempts: ATTEMPTS,
      // Bytes are checked by their SHA-256; checksums of the service's own are not known to all that speak the protocol.
      requestChecksumCalculation: 'WHEN_REQUIRED',
      responseChecksumValidation: 'WHEN_REQUIRED',
      requestHandler: { connectionTimeout: CONNECT_MS, requestTimeout: SILENT_MS },
    });
  }

  #at(name: string): { readonly Bucket: string; readonly Key: string } {
    return { Bucket: this.settings.name, Key: this.settings.prefix + name };
  }

  /** @throws {MediaError} in the place of what the service said: `file-missing`, `store-away`, `disk-full` */
  async #ask<Answer>(request: () => Promise<Answer>): Promise<Answer> {
    try {
      return await request();
    } catch (error) {
      if (error instanceof MediaError) throw error;
      const { name, message, code } = error as ServiceError;
      if (isMissing(error as ServiceError)) throw new MediaError('file-missing', 'The store does not have these bytes any more.');
      const local = asMediaError(error);
      if (local instanceof MediaError) throw local;
      throw new MediaError(
        'store-away',
        `The store "${this.settings.name}" does not answer as it should (${[code ?? name, message].filter(Boolean).join(': ').slice(0, 200)}). What is in it is safe; what waits for it goes on when it answers. Whoever looks after the server should look at it.`,
      );
    }
  }

  async find(name: string): Promise<BucketObject | null> {
    return this.#ask(async () => {
      try {
        const { ContentLength, LastModified } = await this.#client.send(new HeadObjectCommand(this.#at(name)));
        return { name, sizeBytes: ContentLength ?? 0, changedAt: LastModified ?? new Date(0) };
      } catch (error) {
        if (isMissing(error as ServiceError)) return null;
        throw error;
      }
    });
  }

  /** A small object without bytes: it is there, since when is what it says. */
  async mark(name: string): Promise<void> {
    await this.#ask(() => this.#client.send(new PutObjectCommand({ ...this.#at(name), Body: Buffer.alloc(0) })));
  }

  /** All of a file; nothing is there until all of it is. */
  async send(name: string, path: string): Promise<void> {
    const { size } = await stat(path);
    const partSize = Math.max(PART_BYTES, Math.ceil(size / MOST_PARTS));
    await this.#ask(() =>
      new Upload({
        client: this.#client,
        params: { ...this.#at(name), Body: createReadStream(path, { highWaterMark: 1 << 20 }) },
        partSize,
        queueSize: PARTS_AT_ONCE,
      }).done(),
    );
  }

  /** All of an object into a new file; where the line breaks, the rest is asked for. */
  async fetch(name: string, path: string): Promise<void> {
    let flags = 'wx';
    for (let attempt = 1, at = 0; ; attempt++) {
      try {
        return await this.#ask(async () => {
          const range = at > 0 ? { Range: `bytes=${at}-` } : {};
          const { Body, ContentRange } = await this.#client.send(new GetObjectCommand({ ...this.#at(name), ...range }));
          // A service that knows no ranges begins anew.
          if (!ContentRange) at = 0;
          const file = createWriteStream(path, { flags, start: at });
          flags = 'r+';
          try {
            await pipeline(Body as Readable, file);
          } finally {
            at += file.bytesWritten;
          }
        });
      } catch (error) {
        if (attempt === ATTEMPTS || (error as MediaError).code !== 'store-away') throw error;
        await new Promise((resolve) => setTimeout(resolve, PAUSE_MS * 2 ** attempt));
      }
    }
  }

  async *list(under = ''): AsyncGenerator<BucketObject> {
    const { name: Bucket, prefix } = this.settings;
    for (let ContinuationToken: string | undefined, more = true; more;) {
      const page = await this.#ask(() =>
        this.#client.send(new ListObjectsV2Command({ Bucket, Prefix: prefix + under, ...(ContinuationToken && { ContinuationToken }) })),
      );
      for (const { Key, Size, LastModified } of page.Contents ?? [])
        yield { name: Key!.slice(prefix.length), sizeBytes: Size ?? 0, changedAt: LastModified ?? new Date(0) };
      ContinuationToken = page.NextContinuationToken;
      more = ContinuationToken !== undefined;
    }
  }

  async remove(name: string): Promise<void> {
    await this.#ask(() => this.#client.send(new DeleteObjectCommand(this.#at(name))));
  }
}
