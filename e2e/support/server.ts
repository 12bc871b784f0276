import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { cpSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { TAP_MODULE } from './tap-module.ts';

const root = join(import.meta.dirname, '../..');
export const scratch = process.env['EUPHONOS_TEST_SCRATCH'] ?? mkdtempSync(join(tmpdir(), 'euphonos-e2e-'));
/** The server of this worker. */
export const address = process.env['EUPHONOS_E2E_ADDRESSES']?.split(',')[Number(process.env['TEST_PARALLEL_INDEX'])] ?? '';

/** On a machine that is many times slower. */
const LONGEST_DEMO_MS = 1_200_000;

/** What a server had when it ended. */
export interface Seed {
  readonly database: string;
  readonly media: string;
}

async function ask(databaseUrl: string, query: string): Promise<Record<string, unknown>[]> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    return (await client.query(query)).rows as Record<string, unknown>[];
  } finally {
    await client.end();
  }
}

/** The built product as a process of its own, with the demo in it. */
export class ProductServer {
  #child: ChildProcess | undefined;

  private constructor(
    readonly port: number,
    private readonly databaseUrl: string,
    private readonly media: string,
    private readonly settings: Readonly<Record<string, string>>,
  ) {}

  /** What it said when it started. */
  printed = '';

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  /**
   * @param settings variables of its environment
   * @param like begins with what another one has, which must not run
   */
  static async create(settings: Readonly<Record<string, string>> = {}, like?: Seed): Promise<ProductServer> {
    const base = process.env['EUPHONOS_TEST_DATABASE_URL'];
    if (!base) throw new Error('The end-to-end tests need a database: run them with "npm test -- e2e".');
    const name = `e2e_${randomUUID().replaceAll('-', '')}`;
    await ask(base, `CREATE DATABASE ${name} ${like ? `TEMPLATE ${like.database}` : ''}`);
    const url = new URL(base);
    url.pathname = name;
    const media = join(scratch, `media-${name}`);
    if (like) cpSync(like.media, media, { recursive: true });
    else mkdirSync(media, { recursive: true });
    const server = new ProductServer(await freePort(), url.href, media, settings);
    await server.start();
    return server;
  }

  async start(): Promise<void> {
    const env = {
      ...process.env,
      EUPHONOS_PORT: String(this.port),
      EUPHONOS_DATABASE_URL: this.databaseUrl,
      EUPHONOS_MEDIA: this.media,
      EUPHONOS_PAGE: page(),
      EUPHONOS_LOG: 'error',
      NODE_ENV: 'production',
      ...this.settings,
    };
    const child = spawn(process.execPath, [join(root, 'apps/server/dist-bundle/main.js')], {
      env,
      stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
    });
    child.stdout!.on('data', (part: Buffer) => (this.printed += part.toString()));
    this.#child = child;
    await new Promise<void>((resolve, reject) => {
      child.once('message', () => resolve());
      child.once('exit', (code) => reject(new Error(`The server ended with ${code}.`)));
    });
  }

  /** Once it has read the demo and laid it out, and has nothing to do: ends it. */
  async endAsSeed(): Promise<Seed> {
    const state = `SELECT (SELECT count(*)::int FROM session WHERE jsonb_array_length(document->'marks') > 0) AS laid_out,
      (SELECT count(*)::int FROM job WHERE state IN ('queued', 'running')) AS at_work`;
    for (const end = Date.now() + LONGEST_DEMO_MS; ;) {
      const [row] = await ask(this.databaseUrl, state);
      if (row!['laid_out'] === 1 && row!['at_work'] === 0) break;
      if (Date.now() > end) throw new Error(`The demo is not there after ${LONGEST_DEMO_MS / 1000} s: ${JSON.stringify(row)}`);
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
    await this.kill();
    return { database: new URL(this.databaseUrl).pathname.slice(1), media: this.media };
  }

  async kill(signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
    const child = this.#child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await ended;
  }
}

/** The built page with the tap beside it: a worklet loads its modules from the page's own address only. */
function page(): string {
  const folder = join(scratch, 'page');
  cpSync(join(root, 'apps/web/dist'), folder, { recursive: true });
  writeFileSync(join(folder, 'e2e-tap.js'), TAP_MODULE);
  return folder;
}

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
