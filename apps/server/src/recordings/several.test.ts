import { readFileSync, writeFileSync } from 'node:fs';
import type { SessionView } from '@euphonos/contracts';
import { applyEdit, endOf, targets, type Edit, type SessionDocument } from '@euphonos/engine';
import { levelDb, noise, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});

/** A file of a tone, at a rate, as the recorder of somebody writes it. */
function take(hz: number, seconds: number, sampleRateHz = 48_000): Buffer {
  const samples = sine((hz * 48_000) / sampleRateHz, -20, (seconds * sampleRateHz) / 48_000);
  writeFloatWav(files.path('take.wav'), samples, { sampleRateHz });
  return readFileSync(files.path('take.wav'));
}
/** The same with a broadcast chunk whose time reference is so many seconds of the day. */
function dated(hz: number, seconds: number, startSeconds: number): Buffer {
  writeFileSync(files.path('plain.wav'), take(hz, seconds));
  const reference = String(Math.round(startSeconds * 48_000));
  ffmpeg(
    '-i',
    files.path('plain.wav'),
    '-c:a',
    'pcm_f32le',
    '-write_bext',
    '1',
    '-metadata',
    `time_reference=${reference}`,
    files.path('dated.wav'),
  );
  return readFileSync(files.path('dated.wav'));
}
const send = (query: string, bytes: Uint8Array) => server.send(query, bytes);
const view = async (id: string): Promise<SessionView> => (await server.json<SessionView>('GET', `sessions/${id}`)).body;
const made = (id: string): Promise<SessionView> =>
  until(
    () => view(id),
    ({ document }) => document !== null,
  );

test('three files become a session with a track each, at the rate of the first, lined up by what they state; nothing is made before all are there', async () => {
  const { sessionId } = await send('name=anna.wav&placing=tracks', dated(300, 2, 36_000));
  await send(`name=ben.wav&session=${sessionId}`, dated(500, 1, 36_001.5));
  await send(`name=cleo.wav&session=${sessionId}`, take(700, 1, 44_100));
  await until(
    () => view(sessionId),
    ({ recordings }) => recordings.length === 3 && recordings.every(({ job }) => job.state === 'done'),
  );
  expect(await view(sessionId)).toMatchObject({ document: null, gathering: true });
  expect((await server.json('POST', `sessions/${sessionId}/gathered`)).status).toBe(204);
  const { document, recordings, revision } = await made(sessionId);
  expect(document!.tracks.map(({ name, clips }) => [name, clips[0]!.startFrame, endOf(clips)])).toEqual([
    ['anna', 0, 96_000],
    ['ben', 72_000, 120_000],
    ['cleo', 0, 48_000],
  ]);
  expect(recordings.map(({ fileName, facts }) => [fileName, facts!.sampleRateHz, facts!.fileSampleRateHz, facts!.startSeconds])).toEqual([
    ['anna.wav', 48_000, 48_000, 36_000],
    ['ben.wav', 48_000, 48_000, 36_001.5],
    ['cleo.wav', 48_000, 44_100, null],
  ]);
  expect(revision).toBe(1);
});

test('a session of tracks takes no more recordings than it can hold, and says so; what is there makes the session', async () => {
  const { sessionId } = await send('name=1.wav&placing=tracks', take(300, 0.1));
  await server.sql.query(
    `INSERT INTO session_recording (session_id, recording_id, place)
     SELECT $1, id, 40 FROM recording WHERE id NOT IN (SELECT recording_id FROM session_recording WHERE session_id = $1) LIMIT 2`,
    [sessionId],
  );
  const few = Array.from({ length: 29 }, (_, i) => send(`name=${i + 2}.wav&session=${sessionId}`, take(300, 0.1)));
  await Promise.all(few);
  await expect(send(`name=one more.wav&session=${sessionId}`, take(300, 0.1))).rejects.toMatchObject({ code: 'session-full' });
  await server.json('POST', `sessions/${sessionId}/gathered`);
  expect((await made(sessionId)).document!.tracks).toHaveLength(32);
});

test('files in sequence on one track, one of them broken: made of those that can be read, cut over a joint, rendered to the sample', async () => {
  const { sessionId } = await send('name=one.wav&placing=sequence', take(300, 1));
  await send(`name=broken.wav&session=${sessionId}`, Buffer.from('this is no sound at all'));
  await send(`name=two.wav&session=${sessionId}`, take(3000, 1));
  await server.json('POST', `sessions/${sessionId}/gathered`);
  const { document, revision } = await made(sessionId);
  expect(document!.tracks).toHaveLength(1);
  const bare: SessionDocument = {
    ...document!,
    target: { ...targets[0]!, integratedLufs: null, ceilingDbtp: 0 },
    tracks: document!.tracks.map((track) => ({ ...track, chain: { treatments: [] } })),
  };
  const edit: Edit = { type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: 24_000, endFrame: 72_000 }], close: true };
  const edited = applyEdit(bare, edit);
  const saved = await server.json<{ revision: number }>('PUT', `sessions/${sessionId}/document`, { revision, document: edited });
  const { id } = await server.render(sessionId, saved.body.revision);
  expect((await server.renderEnd(sessionId, id)).job).toMatchObject({ state: 'done' });
  writeFileSync(files.path('out.wav'), Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
  ffmpeg('-i', files.path('out.wav'), '-f', 'f32le', files.path('out.raw'));
  const out = new Float32Array(new Uint8Array(readFileSync(files.path('out.raw'))).buffer);
  expect(out.length).toBe(48_000);
  const low = sine(300, -20, 1);
  const high = sine(3000, -20, 1);
  expect(Math.max(...out.subarray(0, 23_000).map((x, n) => Math.abs(x - low[n]!)))).toBeLessThanOrEqual(1.5 * 2 ** -23);
  expect(Math.max(...out.subarray(25_000).map((x, n) => Math.abs(x - high[25_000 + n]!)))).toBeLessThanOrEqual(1.5 * 2 ** -23);
});

test('a recording that joins an open session takes its rate and waits to be put on a track; another session’s is refused', async () => {
  writeFloatWav(files.path('in.wav'), noise(-40, 1, 1));
  const session = await server.bringIn('open.wav', readFileSync(files.path('in.wav')));
  const stranger = await server.bringIn('other.wav', readFileSync(files.path('in.wav')));
  const { recordingId } = await send(`name=late.wav&session=${session.id}`, take(440, 1, 96_000));
  const { document, recordings } = await until(
    () => view(session.id),
    ({ recordings: all }) => all[1]?.job.state === 'done',
  );
  expect(document!.tracks).toHaveLength(1);
  const late = recordings[1]!;
  expect([late.id, late.facts!.sampleRateHz, late.facts!.lengthFrames]).toEqual([recordingId, 48_000, 48_000]);
  const recording = { id: late.id, name: 'late', channels: 1, lengthFrames: 48_000, sampleRateHz: 48_000 };
  const added = applyEdit(document!, { type: 'add-track', newId: 'late', recording });
  const put = (next: SessionDocument) => server.json('PUT', `sessions/${session.id}/document`, { revision: 1, document: next });
  const foreign = applyEdit(document!, { type: 'add-track', newId: 'f', recording: { ...recording, id: stranger.recording.id } });
  expect(await put(foreign)).toMatchObject({ status: 422, body: { code: 'track-outside' } });
  expect((await put(added)).status).toBe(200);
  await expect(send('name=x.wav&session=00000000-0000-4000-8000-000000000000', take(440, 0.1))).rejects.toMatchObject({
    code: 'not-found',
  });
  // Its samples are those of the tone, converted: a peak of -20 dBFS.
  const bytes = await (await server.fetch(`recordings/${late.id}/channels/0`)).arrayBuffer();
  expect(Math.abs(levelDb(new Float32Array(bytes), 4800, 43_200) + 23.01)).toBeLessThan(0.1);
  expect((await server.json('DELETE', `sessions/${session.id}?final=true`)).status).toBe(204);
  expect((await server.fetch(`recordings/${late.id}/channels/0`)).status).toBe(404);
});
