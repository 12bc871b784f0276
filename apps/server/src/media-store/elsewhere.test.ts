import { execFile, execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { SessionPage, SessionView } from '@euphonos/contracts';
import { scratchFolder } from '../../../../packages/media/src/testing/files.js';
import { ObjectStore } from '../testing/object-store.js';
import { TestServer } from '../testing/test-server.js';

// The store in a bucket: one process answers, another one works, each with a folder of its own.
const WORK = join(__dirname, '../../dist-bundle/work.js');
const files = scratchFolder();
let service: ObjectStore;
let server: TestServer;
let worker: ChildProcess;

beforeAll(async () => {
  service = await ObjectStore.create();
  server = await TestServer.create(undefined, { EUPHONOS_WORK: 'none', ...service.environment });
  const env = {
    ...process.env,
    ...service.environment,
    EUPHONOS_DATABASE_URL: server.url,
    EUPHONOS_MEDIA: files.path('mill'),
    EUPHONOS_WORKER_NAME: 'mill',
    EUPHONOS_LOG: 'silent',
  };
  worker = spawn(process.execPath, [WORK], { env, stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
  await new Promise((resolve) => worker.once('message', resolve));
});
afterAll(async () => {
  worker.kill();
  await server.close();
  await service.close();
  files.remove();
});

const demo = (): Buffer => {
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    join(__dirname, '../../../../demo/narrator.flac'),
    '-t',
    '20',
    files.path('words.flac'),
  ]);
  return readFileSync(files.path('words.flac'));
};

const bytesOf = async (path: string): Promise<Buffer> => Buffer.from(await (await server.fetch(path)).arrayBuffer());

test('what comes in at one machine is rendered at another, and heard at the first; what went from the folders comes again', async () => {
  const bytes = demo();
  const session = await server.bringIn('words.flac', bytes);
  const { id } = await server.render(session.id, session.revision);
  expect((await server.renderEnd(session.id, id)).job.state).toBe('done');
  const first = await bytesOf(`renders/${id}/file`);
  expect(first.length).toBeGreaterThan(1e6);
  rmSync(server.media, { recursive: true });
  rmSync(files.path('mill'), { recursive: true });
  expect((await bytesOf(`renders/${id}/file`)).equals(first)).toBe(true);
  expect((await bytesOf(`recordings/${session.recording.id}/file`)).equals(bytes)).toBe(true);
  // Of what is in the bucket alone.
  const again = await server.render(session.id, session.revision);
  await server.renderEnd(session.id, again.id);
  expect((await bytesOf(`renders/${again.id}/file`)).equals(first)).toBe(true);
});

test('work that meets a store that is away waits, and goes on when it answers; whoever brings something in is told', async () => {
  const session = await server.bringIn('more words.flac', Buffer.concat([demo(), Buffer.alloc(1)]));
  rmSync(files.path('mill'), { recursive: true });
  await service.line.cut();
  const { id } = await server.render(session.id, session.revision);
  await expect(server.send('name=late.flac', demo())).rejects.toMatchObject({ code: 'store-away' });
  await new Promise((resolve) => setTimeout(resolve, 1500));
  await service.line.mend();
  const done = await server.renderEnd(session.id, id);
  expect(done.job.state).toBe('done');
  const { rows } = await server.sql.query('SELECT attempt FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [id]);
  expect(rows).toEqual([{ attempt: 1 }]);
  expect((await server.bringIn('late.flac', demo())).recording.job.state).toBe('done');
});

test('a backup of it is a folder with all of its bytes, and is restored into another bucket', async () => {
  const run = (what: string, url: string, media: string, store: Readonly<Record<string, string>>) =>
    promisify(execFile)(process.execPath, [join(__dirname, '../../../../scripts/backup.mjs'), what, files.path('backup')], {
      env: { ...process.env, ...store, EUPHONOS_DATABASE_URL: url, EUPHONOS_MEDIA: media, EUPHONOS_TAKES: files.path('takes') },
    });
  expect((await run('backup', server.url, files.path('copied'), service.environment)).stdout).toMatch(/Backed up to .*: \d+ files/);
  const elsewhere = { ...service.environment, EUPHONOS_STORE: 's3://studio/restored' };
  const other = await TestServer.create(async (url, media) => void (await run('restore', url, media, elsewhere)), elsewhere);
  try {
    const { rows } = (await other.json<SessionPage>('GET', 'sessions')).body;
    const file = async (at: TestServer): Promise<Buffer> => {
      const { recording } = (await at.json<SessionView>('GET', `sessions/${rows[0]!.id}`)).body;
      return Buffer.from(await (await at.fetch(`recordings/${recording.id}/file`)).arrayBuffer());
    };
    rmSync(other.media, { recursive: true });
    expect((await file(other)).equals(await file(server))).toBe(true);
  } finally {
    await other.close();
  }
});
