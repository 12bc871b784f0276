// How far one server goes, and what another worker brings. EUPHONOS_FILES says how many files of 30 s are cleaned as a batch (1000), once by one
// worker and once by two, each held to one core, since one by itself would take both of this machine. Meanwhile somebody renders by hand, and
// twenty engineers save.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { targets } from '@euphonos/engine';
import pg from 'pg';
import { startPostgres } from '../scripts/lib/postgres.mjs';
import { root } from '../scripts/lib/system.mjs';
import { narration } from './sounds.mjs';

const PORT = 4697;
const api = `http://127.0.0.1:${PORT}/api`;
const RATE_HZ = 48_000;
const SECONDS = 30;
const ENGINEERS = 20;
const SAVE_EVERY_MS = 1000;
const HAND_RENDERS = 20;

const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const quantile = (values, share) => [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(share * values.length))];

async function ask(method, path, body) {
  const response = await fetch(`${api}/${path}`, {
    method,
    ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
  });
  const answer = response.status === 204 ? null : await response.json();
  if (!response.ok) throw new Error(answer.message);
  return answer;
}

/** A process of the product, on one core or wherever it likes. */
function start(what, core, env) {
  const file = join(root, 'apps/server/dist', what);
  const [command, args] = core === null ? [process.execPath, [file]] : ['taskset', ['-c', String(core), process.execPath, file]];
  const child = spawn(command, args, {
    env: { ...process.env, NODE_ENV: 'production', EUPHONOS_LOG: 'silent', ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const ready = new Promise((resolve, reject) => {
    child.stdout.on('data', (part) => /works\.|Euphonos is at/.test(part.toString()) && resolve());
    child.once('exit', (code) => reject(new Error(`${what} ended with ${code}`)));
  });
  const end = async () => {
    child.removeAllListeners('exit');
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    await ended;
  };
  return { ready, end };
}

/** Another stretch of a talk each, as 16-bit WAV. */
function cut(talk, index) {
  const frames = SECONDS * RATE_HZ;
  const start = talk.indexOf('data') + 8;
  const from = start + 2 * ((index * 7919) % (Math.floor((talk.length - start) / 2) - frames));
  const header = Buffer.from(talk.subarray(0, start));
  header.writeUInt32LE(start - 8 + 2 * frames, 4);
  header.writeUInt32LE(2 * frames, start - 4);
  const sound = Buffer.from(talk.subarray(from, from + 2 * frames));
  // The same bytes are read once: no two are the same.
  sound.writeInt32LE(index, 0);
  return Buffer.concat([header, sound]);
}

const send = async (bytes, query) => {
  const response = await fetch(`${api}/recordings?${query}`, {
    method: 'POST',
    body: bytes,
    headers: { 'content-type': 'application/octet-stream' },
  });
  return response.json();
};

async function opened(sessionId) {
  for (;;) {
    const session = await ask('GET', `sessions/${sessionId}`);
    if (session.document) return session;
    if (session.recording.job.state === 'failed') throw new Error(session.recording.job.problem.message);
    await wait(200);
  }
}

/** Renders by hand, one after the other: how long each waits until it is at work, s. */
async function renderByHand(sql, session, isOver) {
  const waited = [];
  while (waited.length < HAND_RENDERS && !isOver()) {
    const { id } = await ask('POST', `sessions/${session.id}/renders`, { revision: session.revision });
    const begun = Date.now();
    for (;;) {
      const { rows } = await sql.query('SELECT state FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [id]);
      if (rows[0].state !== 'queued') break;
      await wait(20);
    }
    waited.push((Date.now() - begun) / 1000);
    for (;;) {
      const { rows } = await sql.query('SELECT state FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [id]);
      if (rows[0].state === 'done' || rows[0].state === 'failed') break;
      await wait(100);
    }
  }
  return waited;
}

/** Saves of several engineers at once, each in a session of theirs: how long each takes, ms. */
async function saveByMany(sessions, isOver) {
  const took = [];
  await Promise.all(
    sessions.map(async (session, i) => {
      let { revision } = session;
      await wait((i * SAVE_EVERY_MS) / sessions.length);
      while (!isOver()) {
        const begun = performance.now();
        ({ revision } = await ask('PUT', `sessions/${session.id}/document`, { revision, document: session.document }));
        took.push(performance.now() - begun);
        await wait(SAVE_EVERY_MS);
      }
    }),
  );
  return took;
}

/** A batch, until its last file is there. @returns seconds */
async function batch(talk, files, from, meanwhile) {
  const { id } = await ask('POST', 'batches', { name: `${files} files`, target: targets[0] });
  for (let i = 0; i < files; i++) await send(cut(talk, from + i), `name=${from + i}.wav&batch=${id}`);
  const begun = performance.now();
  let over = false;
  const other = meanwhile?.(() => over);
  for (;;) {
    const rows = await ask('GET', 'batches');
    const row = rows.find((one) => one.id === id);
    if (row.failed > 0) throw new Error(`${row.failed} files failed`);
    if (row.done === files) break;
    await wait(250);
  }
  over = true;
  const seconds = (performance.now() - begun) / 1000;
  return { seconds, other: await other };
}

export async function run() {
  const files = Number(process.env.EUPHONOS_FILES ?? 1000);
  const talk = readFileSync(narration(600));
  const scratch = mkdtempSync(join(tmpdir(), 'euphonos-scale-'));
  const database = await startPostgres(join(scratch, 'postgres'), { durable: true });
  const env = {
    EUPHONOS_PORT: String(PORT),
    EUPHONOS_DATABASE_URL: database.url,
    EUPHONOS_MEDIA: join(scratch, 'media'),
    EUPHONOS_DEMO: 'none',
  };
  const sql = new pg.Client({ connectionString: database.url });
  const running = [];
  try {
    const server = start('main.js', null, { ...env, EUPHONOS_WORK: 'none' });
    running.push(server);
    await server.ready;
    await sql.connect();
    const first = start('work.js', 0, { ...env, EUPHONOS_WORKER_NAME: 'one' });
    running.push(first);
    await first.ready;
    const mine = await opened((await send(cut(talk, 5_000_000), 'name=by-hand.wav')).sessionId);
    const theirs = [];
    for (let i = 0; i < ENGINEERS; i++)
      theirs.push(await opened((await send(cut(talk, 6_000_000 + i), `name=engineer-${i}.wav`)).sessionId));
    // Both are measured without anybody beside them; who waits is measured beside a third.
    const one = await batch(talk, files, 0);
    const second = start('work.js', 1, { ...env, EUPHONOS_WORKER_NAME: 'two' });
    running.push(second);
    await second.ready;
    const two = await batch(talk, files, files);
    const beside = await batch(talk, files, 2 * files, (isOver) =>
      Promise.all([renderByHand(sql, mine, isOver), saveByMany(theirs, isOver)]),
    );
    const [waited, saved] = beside.other;
    return [
      { what: `${files} files of ${SECONDS} s, one worker on one core`, value: one.seconds, unit: ' s' },
      { what: 'two workers, a core each', value: two.seconds, unit: ' s' },
      { what: 'two against one', value: one.seconds / two.seconds, limit: 1.7, atLeast: true },
      {
        what: `a render by hand beside it, until it is at work, p95 of ${waited.length}`,
        value: quantile(waited, 0.95),
        unit: ' s',
        limit: 2,
      },
      { what: `${ENGINEERS} engineers save beside it, p95 of ${saved.length}`, value: quantile(saved, 0.95), unit: ' ms', limit: 200 },
    ];
  } finally {
    await sql.end().catch(() => undefined);
    for (const one of running.reverse()) await one.end();
    await database.stop();
    rmSync(scratch, { recursive: true, force: true });
  }
}
