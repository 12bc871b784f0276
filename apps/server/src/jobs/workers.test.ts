import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BatchView, StateView, SurveyView } from '@euphonos/contracts';
import { ffmpeg, scratchFolder } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const WORK = join(__dirname, '../../dist-bundle/work.js');
const files = scratchFolder();
let server: TestServer;
const workers = new Map<string, ChildProcess>();
/** What a worker wrote into its log. */
const told = new Map<string, string>();

/** A process that works, on a machine of that name. */
async function work(name: string): Promise<void> {
  const env = {
    ...process.env,
    EUPHONOS_DATABASE_URL: server.url,
    EUPHONOS_MEDIA: server.media,
    EUPHONOS_WORKER_NAME: name,
    EUPHONOS_LOG: 'info',
    EUPHONOS_PART_SECONDS: '12',
    NODE_ENV: 'production',
  };
  const child = spawn(process.execPath, [WORK], { env, stdio: ['ignore', 'ignore', 'pipe', 'ipc'] });
  child.stderr!.on('data', (part: Buffer) => told.set(name, (told.get(name) ?? '') + part.toString()));
  workers.set(name, child);
  await new Promise<void>((resolve, reject) => {
    child.once('message', () => resolve());
    child.once('exit', (code) => reject(new Error(`The worker ended with ${code}.`)));
  });
  child.removeAllListeners('exit');
}

async function end(name: string, signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
  const child = workers.get(name)!;
  workers.delete(name);
  const ended = new Promise((resolve) => child.once('exit', resolve));
  child.kill(signal);
  await ended;
}

const workerOf = async (renderId: string): Promise<string | undefined> =>
  (
    (await server.sql.query('SELECT worker_id FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [renderId])).rows[0]
      ?.worker_id as string
  )?.split('/')[0];

beforeAll(async () => {
  // It answers only.
  server = await TestServer.create(undefined, { EUPHONOS_WORK: 'none' });
  await work('mill-1');
});
afterAll(async () => {
  for (const name of [...workers.keys()]) await end(name, 'SIGTERM');
  await server.close();
  files.remove();
});

test('what a killed worker was at is taken over by another within half a minute, gone on with behind its last part, and comes to one result', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=r=48000:d=90:a=0.05:seed=5', '-c:a', 'flac', files.path('long.flac'));
  const session = await server.bringIn('long.flac', readFileSync(files.path('long.flac')));
  // Its survey is not to run beside it.
  await until(
    () => server.json<SurveyView>('GET', `recordings/${session.recording.id}/survey`),
    ({ body }) => body.job?.state === 'done',
  );
  // At a gain of its own it is a mix, whose tracks begin their parts before the whole does.
  const document = { ...session.document!, tracks: session.document!.tracks.map((track) => ({ ...track, gainDb: -2 })) };
  const { body: saved } = await server.json<{ revision: number }>('PUT', `sessions/${session.id}/document`, {
    revision: session.revision,
    document,
  });
  const { id } = await server.render(session.id, saved.revision);
  await until(
    () => server.findRender(session.id, id),
    ({ job }) => job.state === 'running',
  );
  expect(await workerOf(id)).toBe('mill-1');
  const parts = async (): Promise<{ sha: string; memories: Buffer | null }[]> =>
    (await server.sql.query('SELECT sha, memories FROM render_part ORDER BY parts')).rows as { sha: string; memories: Buffer | null }[];
  await until(parts, (rows) => rows.length > 1);
  // Held, so that it is in the middle however quick this machine is.
  workers.get('mill-1')!.kill('SIGSTOP');
  const held = await parts();
  await work('mill-2');
  const { workers: known } = (await server.json<StateView>('GET', 'state')).body;
  expect(known.filter(({ serves }) => !serves).map(({ name, running }) => [name, running])).toEqual([
    ['mill-1', 1],
    ['mill-2', 0],
  ]);
  await end('mill-1', 'SIGKILL');
  const killedAtMs = Date.now();
  // Of another machine nobody can tell but by its silence.
  await until(
    () => workerOf(id),
    (name) => name === 'mill-2',
    30,
  );
  expect(Date.now() - killedAtMs).toBeLessThan(30_000);
  const done = await server.renderEnd(session.id, id);
  expect(done.job.state).toBe('done');
  const { rows } = await server.sql.query('SELECT attempt, (SELECT count(*)::int FROM render) AS renders FROM job WHERE kind = $1', [
    'render',
  ]);
  expect(rows).toEqual([{ attempt: 2, renders: 1 }]);
  expect(told.get('mill-2')).toContain('render goes on');
  // Another one, in one piece, has the same bytes.
  const { id: again } = await server.render(session.id, saved.revision);
  await server.renderEnd(session.id, again);
  const made = await server.sql.query('SELECT file_sha FROM render');
  expect(made.rows.length).toBe(2);
  expect(new Set(made.rows.map(({ file_sha }) => file_sha as string)).size).toBe(1);
  // Parts have made room, and only the last one's memories were kept.
  expect(held.map(({ memories }) => memories !== null)).toEqual(held.map((_, i) => i === held.length - 1));
  await until(
    () => Promise.resolve(held.filter(({ sha }) => existsSync(join(server.media, sha.slice(0, 2), sha.slice(2))))),
    (left) => left.length === 0,
  );
  expect(await parts()).toEqual([]);
});

test('what somebody waits for does not wait for a batch, and batches take turns', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=r=48000:d=20:a=0.05:seed=6', '-c:a', 'flac', files.path('short.flac'));
  const own = await server.bringIn('own.flac', readFileSync(files.path('short.flac')));
  const { body: batch } = await server.json<BatchView>('POST', 'batches', { name: 'Many', target: own.document!.target });
  for (let i = 0; i < 10; i++) {
    ffmpeg('-f', 'lavfi', '-i', `anoisesrc=r=48000:d=20:a=0.05:seed=${100 + i}`, '-c:a', 'flac', files.path('one.flac'));
    await server.send(`name=${i}.flac&batch=${batch.id}`, readFileSync(files.path('one.flac')));
  }
  const { body: small } = await server.json<BatchView>('POST', 'batches', { name: 'Few', target: own.document!.target });
  ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=r=48000:d=20:a=0.05:seed=99', '-c:a', 'flac', files.path('one.flac'));
  await server.send(`name=few.flac&batch=${small.id}`, readFileSync(files.path('one.flac')));
  const { id } = await server.render(own.id, own.revision);
  const done = await server.renderEnd(own.id, id);
  expect(done.job.state).toBe('done');
  const { body: meanwhile } = await server.json<BatchView>('GET', `batches/${batch.id}`);
  expect(meanwhile.items.filter(({ step }) => step !== 'done').length).toBeGreaterThan(2);
  // Nor does a batch of one for a batch of ten that came before it.
  await until(
    () => server.json<BatchView>('GET', `batches/${small.id}`).then(({ body }) => body),
    ({ items }) => items[0]?.step === 'done',
  );
  const { body: still } = await server.json<BatchView>('GET', `batches/${batch.id}`);
  expect(still.items.filter(({ step }) => step !== 'done').length).toBeGreaterThan(2);
  const { rows } = await server.sql.query('SELECT later, count(*)::int FROM job WHERE session_id = $1 GROUP BY later', [own.id]);
  expect(rows).toEqual([{ later: false, count: 3 }]);
});

test('a worker of this version keeps off a database of an earlier one', async () => {
  const dropped = ['RenderParts1765600000000', 'LookUps1765700000000'];
  await server.sql.query('DELETE FROM migrations WHERE name = ANY($1)', [dropped]);
  await server.sql.query('DROP TABLE render_part');
  const env = { ...process.env, EUPHONOS_DATABASE_URL: server.url, EUPHONOS_MEDIA: server.media, EUPHONOS_LOG: 'silent' };
  const child = spawn(process.execPath, [WORK], { env, stdio: ['ignore', 'ignore', 'pipe'] });
  let said = '';
  child.stderr.on('data', (part: Buffer) => (said += part.toString()));
  expect(await new Promise((resolve) => child.once('close', resolve))).toBe(1);
  expect(said).toContain('Start the server of this version first');
});
