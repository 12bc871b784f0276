// An installation of the product for a bench: a database, a server and workers as processes of their own, in a folder that goes afterwards.
import { spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../scripts/lib/postgres.mjs';
import { root } from '../scripts/lib/system.mjs';

export const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** Asks until it holds. @throws when it has not after so many seconds */
export async function until(ask, holds, seconds = 60, everyMs = 100) {
  const end = Date.now() + 1000 * seconds;
  for (;;) {
    const answer = await ask();
    if (holds(answer)) return answer;
    if (Date.now() > end) throw new Error(`Not within ${seconds} s: ${JSON.stringify(answer).slice(0, 400)}`);
    await wait(everyMs);
  }
}

/** A process of the product (`main.js`, `work.js`), on one core or wherever it likes (null). */
function startProcess(what, core, env) {
  const file = join(root, 'apps/server/dist-bundle', what);
  const [command, args] = core === null ? [process.execPath, [file]] : ['taskset', ['-c', String(core), process.execPath, file]];
  const child = spawn(command, args, { env: { ...process.env, NODE_ENV: 'production', ...env }, stdio: ['ignore', 'pipe', 'pipe', 'ipc'] });
  const ended = new Promise((resolve) => child.once('exit', resolve));
  let said = '';
  let isWanted = true;
  let endedAs = null;
  void ended.then((code) => (endedAs = code));
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => (said = (said + part).slice(-20_000)));
  const ready = Promise.race([
    new Promise((resolve) => child.once('message', resolve)),
    ended.then((code) => Promise.reject(new Error(`${what} ended with ${code}: ${said}`))),
  ]);
  return {
    ready,
    pid: child.pid,
    /** What it printed and logged. */
    said: () => said,
    /** What it said when it ended although nobody had asked it to; null where it did not. */
    gone: () => (isWanted && endedAs !== null ? `ended by itself with ${endedAs}: ${said.slice(-3000)}` : null),
    async end(signal = 'SIGTERM') {
      isWanted = false;
      ready.catch(() => undefined);
      child.kill(signal);
      await ended;
    },
  };
}

export class Installation {
  #running = new Map();
  #postgres;
  #scratch;

  /** @param env variables of all its processes */
  static async create(port, env = {}) {
    const made = new Installation();
    made.#scratch = mkdtempSync(join(tmpdir(), 'euphonos-bench-'));
    // The database's user gets through: else its data would lie elsewhere, and stay there.
    chmodSync(made.#scratch, 0o711);
    made.media = join(made.#scratch, 'media');
    made.port = port;
    made.address = `http://127.0.0.1:${port}`;
    await made.startDatabase();
    made.env = {
      EUPHONOS_PORT: String(port),
      EUPHONOS_DATABASE_URL: made.databaseUrl,
      EUPHONOS_MEDIA: made.media,
      EUPHONOS_DEMO: 'none',
      EUPHONOS_LOG: 'error',
      ...env,
    };
    return made;
  }

  path(name) {
    return join(this.#scratch, name);
  }

  /** Also after it was killed: where it was before. */
  async startDatabase() {
    this.#postgres = await startPostgres(join(this.#scratch, 'postgres'), { durable: true, port: this.#postgres?.port });
    this.databaseUrl = this.#postgres.url;
    this.databaseFolder = this.#postgres.data;
    this.databaseEnded = this.#postgres.ended;
  }

  async start(name, what, { core = null, ...env } = {}) {
    const started = startProcess(what, core, { ...this.env, ...env });
    this.#running.set(name, started);
    await started.ready;
    return started;
  }

  running(name) {
    return this.#running.get(name);
  }

  async end(name, signal) {
    const one = this.#running.get(name);
    this.#running.delete(name);
    await one?.end(signal);
  }

  async close() {
    for (const name of [...this.#running.keys()].reverse()) await this.end(name);
    await this.#postgres.stop();
    rmSync(this.#scratch, { recursive: true, force: true });
  }

  async ask(method, path, body) {
    const response = await fetch(`${this.address}/api/${path}`, {
      method,
      ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
    });
    const answer = response.status === 204 ? null : await response.json();
    if (!response.ok) throw Object.assign(new Error(answer.message), { code: answer.code, status: response.status });
    return answer;
  }

  /** A whole file in one request. @param query of the route, with its name */
  async send(bytes, query, path = 'recordings') {
    const response = await fetch(`${this.address}/api/${path}?${query}`, {
      method: 'POST',
      body: bytes,
      headers: { 'content-type': 'application/octet-stream' },
    });
    const answer = await response.json();
    if (!response.ok) throw new Error(answer.message);
    return answer;
  }

  /** A session, when its recordings have come in. */
  async opened(sessionId) {
    return until(
      async () => {
        const session = await this.ask('GET', `sessions/${sessionId}`);
        if (session.recording?.job.state === 'failed') throw new Error(session.recording.job.problem.message);
        return session;
      },
      ({ document }) => document !== null,
      120,
      200,
    );
  }
}
