import { readFileSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import type { HealthView, StateView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
beforeAll(async () => (server = await TestServer.create()));
afterAll(async () => {
  await server.close();
  files.remove();
});

const ask = (path: string, headers: Record<string, string> = {}) =>
  new Promise<{ status: number; id: string; text: string }>((resolve, reject) =>
    request({ host: '127.0.0.1', port: server.port, path, headers }, (response) => {
      let text = '';
      response
        .on('data', (part) => (text += part))
        .on('end', () => resolve({ status: response.statusCode!, id: String(response.headers['x-request-id']), text }));
    })
      .on('error', reject)
      .end(),
  );

test('what was done and what failed, how much lies where, and what it is made of', async () => {
  const before = (await server.json<StateView>('GET', 'state')).body;
  expect(before).toMatchObject({ work: [], failed: [], backup: null, room: { sourceBytes: 0, madeBytes: 0, deliveryBytes: 0 } });
  expect(before.room.totalBytes).toBeGreaterThan(before.room.freeBytes);
  expect(before.versions.map(({ name }) => name)).toEqual(['Euphonos', 'Node.js', 'PostgreSQL', 'ffmpeg']);
  for (const { version } of before.versions) expect(version).toMatch(/^\d+\.\d+/);

  writeFloatWav(files.path('in.wav'), noise(-40, 2, 3));
  const { status } = await fetch(`http://127.0.0.1:${server.port}/api/recordings?name=no%20sound.wav`, {
    method: 'POST',
    body: 'no sound',
  });
  expect(status).toBe(201);
  await server.bringIn('in.wav', readFileSync(files.path('in.wav')));
  const { failed } = await until(
    async () => (await server.json<StateView>('GET', 'state')).body,
    ({ failed: some, work }) => some.length > 0 && work.length === 0,
  );
  expect(failed).toEqual([
    expect.objectContaining({ kind: 'read', sessionName: 'no sound', problem: expect.objectContaining({ code: 'not-audio' }) }),
  ]);

  writeFileSync(
    join(server.media, 'last-backup.json'),
    JSON.stringify({ madeAt: '2026-11-29T12:00:00.000Z', folder: '/backup', sizeBytes: 7 }),
  );
  expect((await server.json<StateView>('GET', 'state')).body.backup).toMatchObject({ folder: '/backup', sizeBytes: 7 });
});

test('figures: requests by their pattern, jobs by their kind; for this machine alone', async () => {
  await ask('/api/sessions/00000000-0000-4000-8000-000000000000');
  const { status, text } = await ask('/metrics');
  expect(status).toBe(200);
  expect(text).toMatch(/euphonos_request_seconds_count\{method="GET",route="\/api\/sessions\/:id",status="4xx"\} 1\n/);
  expect(text).toMatch(/euphonos_job_seconds_count\{kind="read",outcome="done"\} 1\n/);
  expect(text).toMatch(/euphonos_job_seconds_count\{kind="read",outcome="failed"\} 1\n/);
  expect(text).toMatch(/euphonos_store_free_bytes \d/);
  expect(text).not.toContain('00000000-0000');
  // By way of a proxy on this machine it is somebody else who asks.
  expect((await ask('/metrics', { 'x-forwarded-for': '192.0.2.7' })).status).toBe(403);
});

test('every answer has the number of its request; one that a proxy gave is kept, what is none is not', async () => {
  expect((await ask('/api/sessions')).id).toMatch(/^[0-9a-f-]{36}$/);
  expect((await ask('/api/sessions', { 'x-request-id': 'edge-1234567' })).id).toBe('edge-1234567');
  expect((await ask('/api/sessions', { 'x-request-id': '"}{"' })).id).toMatch(/^[0-9a-f-]{36}$/);
});

test('health says what cannot be reached', async () => {
  expect(await ask('/health')).toMatchObject({ status: 200, text: '{"healthy":true,"database":true,"store":true}' });
  await server.line.cut();
  const { status, text } = await until(
    () => ask('/health'),
    (answer) => answer.status !== 200,
  );
  expect([status, JSON.parse(text) as HealthView]).toEqual([503, { healthy: false, database: false, store: true }]);
  await server.line.mend();
  await until(
    () => ask('/health'),
    (answer) => answer.status === 200,
  );
});
