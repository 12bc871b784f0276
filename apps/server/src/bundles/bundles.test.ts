import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { SessionView } from '@euphonos/contracts';
import { profileToFile, takeNoiseProfile } from '@euphonos/dsp';
import { applyEdit, targets, type Edit } from '@euphonos/engine';
import { joined, kernels, mixed, noise, RATE_HZ, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const talk = voice(3);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const words = talk.map((x) => full * x);
const files = scratchFolder();
let here: TestServer;
let there: TestServer;
beforeAll(async () => {
  here = await TestServer.create();
  there = await TestServer.create();
});
afterAll(async () => {
  await here.close();
  await there.close();
  files.remove();
});

const bringBundle = (server: TestServer, bytes: Uint8Array) =>
  server.fetch('bundles', { method: 'POST', body: bytes, headers: { 'content-type': 'application/octet-stream' } });
const sha = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

async function rendered(server: TestServer, id: string): Promise<{ sha: string; name: string }> {
  const { revision } = (await server.json<SessionView>('GET', `sessions/${id}`)).body;
  const render = await server.render(id, revision);
  const { job, fileName } = await server.renderEnd(id, render.id);
  expect(job).toMatchObject({ state: 'done' });
  return { name: fileName, sha: sha(new Uint8Array(await (await server.fetch(`renders/${render.id}/file`)).arrayBuffer())) };
}

test('a session with a kept profile, a version, cuts and a recording of another rate renders the same bytes on an empty installation', async () => {
  writeFloatWav(files.path('anna.wav'), mixed(joined(silence(1), words, silence(1), words), noise(-52, 8, 3)));
  writeFloatWav(files.path('bela.wav'), mixed(joined(words, silence(1)), noise(-60, 4, 9)));
  ffmpeg('-i', files.path('bela.wav'), '-ar', '44100', '-c:a', 'flac', files.path('bela.flac'));
  const session = await here.bringIn('anna.wav', readFileSync(files.path('anna.wav')));
  await here.fetch(`recordings?name=bela.flac&session=${session.id}`, { method: 'POST', body: readFileSync(files.path('bela.flac')) });
  const both = await until(
    async () => (await here.json<SessionView>('GET', `sessions/${session.id}`)).body,
    ({ recordings }) => recordings.length === 2 && recordings.every(({ facts }) => facts !== null),
  );
  const second = both.recordings[1]!;
  const of = { trackId: 'track-1' };
  const at = (from: number, to: number) => ({ startFrame: 48_000 * from, endFrame: 48_000 * to });
  const kept = await here.json<{ id: string }>('POST', 'profiles', {
    file: profileToFile(takeNoiseProfile(kernels, [noise(-60, 2, 9)], RATE_HZ), 'Studio', 'made for a test'),
  });
  const edits: Edit[] = [
    {
      type: 'add-track',
      newId: 'track-2',
      recording: { id: second.id, name: 'bela', channels: 1, sampleRateHz: 48_000, lengthFrames: second.facts!.lengthFrames },
    },
    { type: 'set-noise', ...of, noise: { kind: 'passages', spans: [at(0, 1)] } },
    { type: 'set-noise', trackId: 'track-2', noise: { kind: 'kept', profileId: kept.body.id, name: 'Studio' } },
    { type: 'keep-version', id: 'v1', name: 'before the cut', keptAt: '2026-01-01T00:00:00.000Z' },
    { type: 'cut-spans', ...of, spans: [at(2, 3)], close: true },
    { type: 'set-target', target: { ...targets[0]!, file: { ...targets[0]!.file, format: 'flac', bits: 16 } } },
  ];
  const document = edits.reduce(applyEdit, both.document!);
  expect((await here.json('PUT', `sessions/${session.id}/document`, { revision: both.revision, document })).status).toBe(200);
  const first = await rendered(here, session.id);

  const answer = await here.fetch(`sessions/${session.id}/bundle`);
  expect(answer.headers.get('content-disposition')).toContain('anna.bundle.zip');
  const bytes = new Uint8Array(await answer.arrayBuffer());
  const taken = await bringBundle(there, bytes);
  expect(taken.status).toBe(201);
  const { sessionIds } = (await taken.json()) as { sessionIds: string[] };
  const restored = await until(
    async () => (await there.json<SessionView>('GET', `sessions/${sessionIds[0]}`)).body,
    ({ document: made }) => made !== null,
  );
  expect(restored.name).toBe('anna');
  expect(restored.document!.versions.map(({ name }) => name)).toEqual(['before the cut']);
  expect(restored.recordings.map(({ fileName }) => fileName)).toEqual(['anna.wav', 'bela.flac']);
  expect(await rendered(there, restored.id)).toEqual(first);
});

test('a production goes as a whole; what was damaged on the way makes nothing', async () => {
  const { id } = (await here.json<{ id: string }>('POST', 'productions', { name: 'The tour' })).body;
  const { rows } = (await here.json<{ rows: { id: string }[] }>('GET', 'sessions')).body;
  await here.json('PATCH', 'sessions', { ids: rows.map((row) => row.id), productionId: id });
  const bytes = new Uint8Array(await (await here.fetch(`productions/${id}/bundle`)).arrayBuffer());
  const before = (await there.json<{ rows: unknown[] }>('GET', 'sessions')).body.rows.length;
  // In the middle of the samples.
  const damaged = Uint8Array.from(bytes);
  damaged[bytes.length >> 1]! ^= 0xff;
  const refused = await bringBundle(there, damaged);
  expect([refused.status, ((await refused.json()) as { code: string }).code]).toEqual([422, 'bundle-file']);
  expect((await bringBundle(there, new Uint8Array(Buffer.from('no zip')))).status).toBe(422);
  expect((await there.json<{ rows: unknown[] }>('GET', 'sessions')).body.rows).toHaveLength(before);
  expect((await there.sql.query('SELECT 1 FROM production')).rows).toHaveLength(0);
  expect((await bringBundle(there, bytes)).status).toBe(201);
  expect((await there.sql.query('SELECT name FROM production')).rows).toEqual([{ name: 'The tour' }]);
});
