import { mkdtempSync, readdirSync, rmSync, utimesSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import S3rver from 's3rver';
import type { BucketSettings } from '../media-store/media-store.js';
import { freePort, Line } from './line.js';

/** A stand-in for a service that speaks the S3 protocol, behind a line that can be cut. */
export class ObjectStore {
  readonly folder = mkdtempSync(join(tmpdir(), 'euphonos-objects-'));
  readonly bucket = 'studio';
  line!: Line;
  #server!: S3rver;

  static async create(): Promise<ObjectStore> {
    const made = new ObjectStore();
    const port = await freePort();
    const { folder, bucket } = made;
    made.#server = new S3rver({ address: '127.0.0.1', port, silent: true, directory: folder, configureBuckets: [{ name: bucket }] });
    await made.#server.run();
    made.line = new Line(port, await freePort());
    await made.line.mend();
    // The keys that it knows.
    process.env['AWS_ACCESS_KEY_ID'] = 'S3RVER';
    process.env['AWS_SECRET_ACCESS_KEY'] = 'S3RVER';
    return made;
  }

  settings(cacheBytes: number): BucketSettings {
    return { name: this.bucket, prefix: 'sound/', endpoint: this.endpoint, region: 'us-east-1', cacheBytes };
  }

  get endpoint(): string {
    return `http://127.0.0.1:${this.line.port}`;
  }

  /** As variables of a process. */
  get environment(): Readonly<Record<string, string>> {
    return {
      EUPHONOS_STORE: `s3://${this.bucket}/sound`,
      EUPHONOS_S3_ENDPOINT: this.endpoint,
      AWS_ACCESS_KEY_ID: 'S3RVER',
      AWS_SECRET_ACCESS_KEY: 'S3RVER',
    };
  }

  /** All that it holds was put so long ago. */
  age(ms: number): void {
    const then = new Date(Date.now() - ms);
    for (const entry of readdirSync(this.folder, { recursive: true, withFileTypes: true }))
      if (entry.isFile()) utimesSync(join(entry.parentPath, entry.name), then, then);
  }

  async close(): Promise<void> {
    await this.line.cut();
    await this.#server.close();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
