import { existsSync, readFileSync, rmSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import type { RoomView, SessionView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
const settings: Record<string, string> = {};
let server: TestServer;

beforeAll(async () => void (server = await TestServer.create(undefined, settings)));
afterAll(async () => {
  await server.close();
  files.remove();
});

const samplesOf = async (sessionId: string): Promise<string[]> => {
  const { rows } = await server.sql.query(
    `SELECT jsonb_array_elements_text(blobs->'channels') AS sha FROM recording JOIN session_recording ON recording_id = id WHERE session_id = $1`,
    [sessionId],
  );
  return rows.map(({ sha }: { sha: string }) => join(server.media, sha.slice(0, 2), sha.slice(2)));
};
const open = async (id: string): Promise<SessionView> => (await server.json<SessionView>('GET', `sessions/${id}`)).body;
const rendered = async ({ id, revision }: SessionView): Promise<Buffer> => {
  const render = await server.renderEnd(id, (await server.render(id, revision)).id);
  expect(render.job).toMatchObject({ state: 'done', problem: null });
  return Buffer.from(await (await server.fetch(`renders/${render.id}/file`)).arrayBuffer());
};

test('on a disk that is nearly full, samples that nobody used for a week make room; they are read again when they are wanted, the same to the bit', async () => {
  writeFloatWav(files.path('old.wav'), noise(-40, 8, 3));
  writeFloatWav(files.path('new.wav'), noise(-40, 8, 4));
  const old = await server.bringIn('old.wav', readFileSync(files.path('old.wav')));
  const lately = await server.bringIn('new.wav', readFileSync(files.path('new.wav')));
  const before = await rendered(old);
  await until(
    () =>
      server.sql
        .query(`SELECT count(*)::int FROM job WHERE state IN ('queued', 'running')`)
        .then(({ rows }) => rows[0] as { count: number }),
    ({ count }) => count === 0,
  );
  const [samples] = await samplesOf(old.id);
  const bytes = readFileSync(samples!);
  const longAgo = new Date(Date.now() - 8 * 24 * 3_600_000);
  utimesSync(samples!, longAgo, longAgo);
  // More is to stay free than there is.
  await server.end();
  settings['EUPHONOS_KEEP_FREE_GB'] = '1000000';
  await server.start();
  expect((await server.json<RoomView>('GET', 'room')).body.nearlyFull).toBe(true);
  await until(
    () => Promise.resolve(existsSync(samples!)),
    (there) => !there,
  );
  expect(existsSync((await samplesOf(lately.id))[0]!)).toBe(true);

  // Opened: what was done is there, and it is read again, once.
  const again = await open(old.id);
  expect(again.document).toEqual(old.document);
  expect(['queued', 'running', 'done']).toContain(again.recording.job.state);
  await open(old.id);
  const there = await until(
    () => open(old.id),
    ({ recording }) => recording.job.state === 'done',
  );
  expect(readFileSync(samples!).equals(bytes)).toBe(true);
  expect((await rendered(there)).equals(before)).toBe(true);

  // Rendered without being opened: the render waits for it.
  rmSync(samples!);
  expect((await rendered(there)).equals(before)).toBe(true);
  const { rows } = await server.sql.query(`SELECT count(*)::int FROM job WHERE kind = 'read' AND session_id = $1`, [old.id]);
  expect(rows).toEqual([{ count: 3 }]);
});

test('what cannot be read again is told, and is not tried without end', async () => {
  writeFloatWav(files.path('lost.wav'), noise(-40, 4, 5));
  const lost = await server.bringIn('lost.wav', readFileSync(files.path('lost.wav')));
  const { rows } = await server.sql.query('SELECT original_sha AS sha FROM recording WHERE id = $1', [lost.recording.id]);
  const [{ sha }] = rows as [{ sha: string }];
  for (const path of [join(server.media, sha.slice(0, 2), sha.slice(2)), ...(await samplesOf(lost.id))]) rmSync(path);
  const render = await server.renderEnd(lost.id, (await server.render(lost.id, lost.revision)).id);
  expect(render.job).toMatchObject({
    state: 'failed',
    problem: { code: 'file-missing', message: expect.stringContaining('read again') as string },
  });
  await open(lost.id);
  const { rows: reads } = await server.sql.query(`SELECT count(*)::int FROM job WHERE kind = 'read' AND session_id = $1`, [lost.id]);
  expect(reads).toEqual([{ count: 2 }]);
});
