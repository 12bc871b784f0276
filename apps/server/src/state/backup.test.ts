import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { SessionPage, SessionView, StateView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const SCRIPT = join(__dirname, '../../../../scripts/backup.mjs');
const files = scratchFolder();
const opened: TestServer[] = [];
afterAll(async () => {
  for (const server of opened) await server.close();
  files.remove();
});
const open = async (prepare?: (url: string, media: string) => Promise<void>): Promise<TestServer> => {
  const server = await TestServer.create(prepare);
  opened.push(server);
  return server;
};

/** Runs the command as a user would. */
const run = (what: 'backup' | 'restore', folder: string, url: string, media: string) =>
  promisify(execFile)(process.execPath, [SCRIPT, what, folder], {
    env: {
      ...process.env,
      EUPHONOS_DATABASE_URL: url,
      EUPHONOS_MEDIA: media,
      EUPHONOS_TAKES: join(media, 'takes'),
      EUPHONOS_BACKUP_NOTE: join(media, 'last-backup.json'),
    },
  }).then(
    ({ stdout }) => ({ code: 0, said: stdout }),
    ({ code, stderr }: { code: number; stderr: string }) => ({ code, said: stderr }),
  );
const backup = (server: TestServer) => run('backup', files.path('backup'), server.url, server.media);

const rendered = async (server: TestServer, { id, revision }: Pick<SessionView, 'id' | 'revision'>): Promise<string> => {
  const render = await server.renderEnd(id, (await server.render(id, revision)).id);
  expect(render.job.state).toBe('done');
  const bytes = await (await server.fetch(`renders/${render.id}/file`)).arrayBuffer();
  return createHash('sha256').update(Buffer.from(bytes)).digest('hex');
};

test('a backup that is made while work goes on becomes an installation that renders the same bytes', async () => {
  const server = await open();
  const bringIn = (name: string, seconds: number, seed: number): Promise<SessionView> => {
    writeFloatWav(files.path(name), noise(-40, seconds, seed));
    return server.bringIn(name, readFileSync(files.path(name)));
  };
  const take = await bringIn('take.wav', 5, 3);
  const doomed = await bringIn('doomed.wav', 2, 4);
  const first = await rendered(server, take);
  const long = await bringIn('long.wav', 90, 5);
  const atWork = await server.render(long.id, long.revision);

  // Another keeps deleting for good meanwhile: what the dump still names stays until the backup has it.
  const [made] = await Promise.all([
    backup(server),
    server.json('DELETE', `sessions/${doomed.id}`).then(() => server.json('DELETE', `sessions/${doomed.id}?final=true`)),
  ]);
  expect(made).toMatchObject({ code: 0, said: expect.stringMatching(/Backed up to .*: \d+ files/) });
  expect((await server.json<StateView>('GET', 'state')).body.backup).toMatchObject({ folder: files.path('backup') });

  // A backup that was killed leaves a file half copied; so does a restore, which is then done again.
  const stored = join(files.path('backup'), 'media');
  const [folder] = readdirSync(stored);
  const [name] = readdirSync(join(stored, folder!));
  writeFileSync(join(stored, folder!, `${name}.part`), 'half');
  const other = await open(async (url, media) => {
    mkdirSync(join(media, folder!), { recursive: true });
    writeFileSync(join(media, folder!, name!), 'half');
    expect(await run('restore', files.path('backup'), url, media)).toMatchObject({
      code: 0,
      said: expect.stringContaining('goes on from there'),
    });
  });
  const { rows } = (await other.json<SessionPage>('GET', 'sessions')).body;
  expect(rows.map(({ name }) => name)).toEqual(expect.arrayContaining(['take', 'long']));
  expect(await rendered(other, take)).toBe(first);
  // What was at work is begun again there.
  expect((await other.renderEnd(long.id, atWork.id)).job.state).toBe('done');

  // Nothing is put over an installation that is there.
  expect(await run('restore', files.path('backup'), other.url, other.media)).toMatchObject({
    code: 1,
    said: expect.stringContaining('nothing was touched'),
  });
});

test('the next backup copies what is new; a file that the disk has changed is named, the rest is kept', async () => {
  const [server] = opened as [TestServer];
  await until(
    async () => (await server.json<StateView>('GET', 'state')).body.work.length,
    (count) => count === 0,
  );
  await backup(server);
  expect((await backup(server)).said).toContain(' 0 of them new');
  writeFloatWav(files.path('later.wav'), noise(-40, 1, 9));
  const { recording } = await server.bringIn('later.wav', readFileSync(files.path('later.wav')));
  const { rows } = await server.sql.query<{ sha: string }>('SELECT original_sha AS sha FROM recording WHERE id = $1', [recording.id]);
  const [{ sha }] = rows as [{ sha: string }];
  const stored = join(server.media, sha.slice(0, 2), sha.slice(2));
  writeFileSync(stored, Buffer.concat([readFileSync(stored).subarray(0, -1), Buffer.from([7])]));
  expect(await backup(server)).toMatchObject({ code: 3, said: expect.stringContaining(sha) });
  expect(existsSync(join(files.path('backup'), 'media', sha.slice(0, 2), sha.slice(2)))).toBe(false);
  expect(readdirSync(files.path('backup')).sort()).toEqual(['backup.json', 'database.dump', 'media', 'takes']);
});

test('what is no backup, and a folder that holds something else, are refused in words', async () => {
  const [server] = opened as [TestServer];
  expect(await run('restore', files.path('none'), server.url, files.path('nowhere'))).toMatchObject({
    code: 1,
    said: expect.stringContaining('is no backup of Euphonos'),
  });
  writeFileSync(files.path('letter.txt'), 'Dear all');
  expect(await run('backup', join(files.path('letter.txt'), '..'), server.url, server.media)).toMatchObject({
    code: 1,
    said: expect.stringContaining('holds something else'),
  });
});
