import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { JobEvent, RenderView, SessionView } from '@euphonos/contracts';
import { Client } from 'pg';
import { freePort, Line } from './line.js';

const MAIN = join(__dirname, '../../dist-bundle/main.js');

function databaseUrl(): URL {
  const url = process.env['EUPHONOS_TEST_DATABASE_URL'];
  if (!url) throw new Error('The tests of the server need a database: run them with "npm test" (or "npm test -- unit").');
  return new URL(url);
}

/** The built server as a process of its own, with a database and a store of its own. */
export class TestServer {
  readonly media = mkdtempSync(join(tmpdir(), 'euphonos-media-'));
  #child: ChildProcess | undefined;

  private constructor(
    readonly port: number,
    readonly line: Line,
    readonly url: string,
    readonly sql: Client,
    readonly settings: Readonly<Record<string, string>>,
  ) {}

  /**
   * `prepare` is called before it starts, with the address of its empty database and the folder of its store; `settings` are variables of
   * its environment.
   */
  static async create(
    prepare?: (databaseUrl: string, media: string) => Promise<void>,
    settings: Readonly<Record<string, string>> = {},
  ): Promise<TestServer> {
    const base = databaseUrl();
    const name = `test_${randomUUID().replaceAll('-', '')}`;
    const maker = new Client({ connectionString: base.href });
    await maker.connect();
    await maker.query(`CREATE DATABASE ${name}`);
    await maker.end();
    const own = new URL(base);
    own.pathname = name;
    const sql = new Client({ connectionString: own.href });
    await sql.connect();
    const line = new Line(Number(base.port), await freePort(), base.hostname);
    await line.mend();
    const through = new URL(own);
    through.port = String(line.port);
    const server = new TestServer(await freePort(), line, through.href, sql, settings);
    await prepare?.(own.href, server.media);
    await server.start();
    return server;
  }

  async start(): Promise<void> {
    const env = {
      ...process.env,
      EUPHONOS_PORT: String(this.port),
      EUPHONOS_DATABASE_URL: this.url,
      EUPHONOS_MEDIA: this.media,
      EUPHONOS_UPLOADS: `${this.media}-uploads`,
      EUPHONOS_INBOX: join(this.media, 'inbox'),
      EUPHONOS_BACKUP_NOTE: join(this.media, 'last-backup.json'),
      EUPHONOS_DEMO: 'none',
      EUPHONOS_LOG: 'silent',
      NODE_ENV: 'production',
      ...this.settings,
    };
    const child = spawn(process.execPath, [MAIN], { env, stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
    this.#child = child;
    await new Promise<void>((resolve, reject) => {
      child.once('message', () => resolve());
      child.once('exit', (code) => reject(new Error(`The server ended with ${code}.`)));
    });
  }

  /** Ends the server: in order, or as the kernel would when memory runs out. */
  async end(signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
    const child = this.#child!;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.removeAllListeners('message');
    child.kill(signal);
    const patience = setTimeout(() => child.kill('SIGKILL'), 8000);
    await ended;
    clearTimeout(patience);
  }

  async close(): Promise<void> {
    await this.end();
    await this.sql.end();
    await this.line.cut();
    for (const folder of [this.media, `${this.media}-uploads`]) rmSync(folder, { recursive: true, force: true });
  }

  /** A test that computes for seconds misses that the server has closed an idle connection: then it is asked over another one. */
  fetch(path: string, init: RequestInit = {}): Promise<Response> {
    const ask = (): Promise<Response> => fetch(`http://127.0.0.1:${this.port}/api/${path}`, init);
    return ask().catch((error: Error & { cause?: { code?: string } }) => {
      if (!/EPIPE|ECONNRESET|UND_ERR_SOCKET/.test(error.cause?.code ?? '')) throw error;
      return ask();
    });
  }

  async json<Answer = Record<string, unknown>>(method: string, path: string, body?: object): Promise<{ status: number; body: Answer }> {
    const response = await this.fetch(path, {
      method,
      ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
    });
    return { status: response.status, body: (response.status === 204 ? null : await response.json()) as Answer };
  }

  /** Sends a file; what else is wished of it stands in the query. Rejects with the problem that is answered. */
  async send(query: string, bytes: Uint8Array): Promise<{ sessionId: string; recordingId: string }> {
    const response = await this.fetch(`recordings?${query}`, {
      method: 'POST',
      body: bytes as BodyInit,
      headers: { 'content-type': 'application/octet-stream' },
    });
    const answer = (await response.json()) as { sessionId: string; recordingId: string; message?: string };
    if (response.status !== 201) throw Object.assign(new Error(answer.message), answer);
    return answer;
  }

  /** Sends a file and waits until it has been read. */
  async bringIn(name: string, bytes: Uint8Array): Promise<SessionView> {
    const answer = await this.send(`name=${encodeURIComponent(name)}`, bytes);
    return until(
      () => this.json<SessionView>('GET', `sessions/${answer.sessionId}`).then(({ body }) => body),
      ({ recording }) => recording.job.state === 'done' || recording.job.state === 'failed',
    );
  }

  async render(sessionId: string, revision: number): Promise<RenderView> {
    const { status, body } = await this.json<RenderView>('POST', `sessions/${sessionId}/renders`, { revision });
    if (status !== 201) throw new Error(JSON.stringify(body));
    return body;
  }

  async findRender(sessionId: string, id: string): Promise<RenderView> {
    const { body } = await this.json<RenderView[]>('GET', `sessions/${sessionId}/renders`);
    return body.find((render) => render.id === id)!;
  }

  renderEnd(sessionId: string, id: string): Promise<RenderView> {
    return until(
      () => this.findRender(sessionId, id),
      ({ job }) => job.state !== 'queued' && job.state !== 'running',
    );
  }

  /** Collects what the server reports of its jobs until told to stop. */
  listen(): { events: JobEvent[]; stop: () => void } {
    const events: JobEvent[] = [];
    const controller = new AbortController();
    const read = async (): Promise<void> => {
      const { body } = await this.fetch('events', { signal: controller.signal });
      let text = '';
      for await (const part of body!.pipeThrough(new TextDecoderStream()) as unknown as AsyncIterable<string>) {
        text += part;
        const ended = text.split('\n\n');
        text = ended.pop()!;
        for (const message of ended) {
          const data = /^data: (.*)$/m.exec(message)?.[1];
          if (data?.includes('"job"')) events.push(JSON.parse(data) as JobEvent);
        }
      }
    };
    read().catch(() => undefined);
    return { events, stop: () => controller.abort() };
  }
}

/** Asks again until the answer is as wanted; fails after so long with the last one: a machine that does other work beside it is no failure. */
export async function until<Answer>(ask: () => Promise<Answer>, wanted: (answer: Answer) => boolean, seconds = 200): Promise<Answer> {
  for (const end = Date.now() + seconds * 1000; ;) {
    const answer = await ask();
    if (wanted(answer)) return answer;
    if (Date.now() > end) throw new Error(`Still ${JSON.stringify(answer)?.slice(0, 600)}`);
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}
