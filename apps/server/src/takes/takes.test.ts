import { randomUUID } from 'node:crypto';
import type { SessionView, SurveyView, TakeView } from '@euphonos/contracts';
import { takeNoiseProfile, defaultTreatment, profileToFile } from '@euphonos/dsp';
import { chainToFile } from '@euphonos/engine';
import { joined, kernels, mixed, noise, RATE_HZ, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { TestServer, until } from '../testing/test-server.js';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(() => server.close());

const PRE_ROLL = 48_000;
/** Somebody who talks and pauses in a room, each another. */
const spoken = (seed: number): Float32Array =>
  mixed(joined(silence(1.5), voice(2.5, 110 + 9 * seed, seed), silence(1.5), voice(2, 110 + 9 * seed, seed + 1)), noise(-62, 7.5, seed));
const bytesOf = (sound: Float32Array, from: number, to: number): Buffer =>
  Buffer.from(sound.buffer.slice(sound.byteOffset + 4 * from, sound.byteOffset + 4 * to));

const begin = (sittingId: string, more: object = {}) =>
  server.json<TakeView>('POST', 'takes', {
    id: randomUUID(),
    name: 'Take',
    sittingId,
    sampleRateHz: RATE_HZ,
    channels: 1,
    device: 'A microphone of the test',
    preRollFrames: PRE_ROLL,
    ...more,
  });
async function send(id: string, sound: Float32Array, from: number, to: number) {
  const response = await server.fetch(`takes/${id}/sound?from=${from}`, {
    method: 'PUT',
    body: new Uint8Array(bytesOf(sound, from, to)),
    headers: { 'content-type': 'application/octet-stream' },
  });
  return { status: response.status, body: (await response.json()) as { frames?: number; code?: string; data?: { frames: number } } };
}
const end = (id: string, frames: number, marks: object[] = [], gaps: object[] = []) =>
  server.json<TakeView & { code?: string; data?: { frames: number } }>('POST', `takes/${id}/end`, { frames, marks, gaps });
const take = async (id: string): Promise<TakeView> => (await server.json<TakeView>('GET', `takes/${id}`)).body;
const landed = (id: string): Promise<TakeView> =>
  until(
    () => take(id),
    ({ state }) => state === 'landed',
  );
const session = async (id: string): Promise<SessionView> => (await server.json<SessionView>('GET', `sessions/${id}`)).body;
async function samples(recordingId: string): Promise<Float32Array> {
  return new Float32Array(await (await server.fetch(`recordings/${recordingId}/channels/0`)).arrayBuffer());
}

test('a take comes into a session of its own, sample by sample, surveyed, with its chain, its noise and its marks; killed servers lose nothing', async () => {
  const sittingId = randomUUID();
  const profile = profileToFile(takeNoiseProfile(kernels, [noise(-62, 1.5, 3)], RATE_HZ), 'The silence', 'Sound check');
  const { body: kept } = await server.json<{ id: string }>('POST', 'profiles', { file: profile });
  const chain = chainToFile(
    {
      treatments: [defaultTreatment('high-pass'), defaultTreatment('noise-reduction'), { ...defaultTreatment('gate'), listens: 'words' }],
    },
    'Sound check',
  );
  const { status, body: made } = await begin(sittingId, { name: 'Chapter one', chain, profileId: kept.id });
  expect([status, made.number, made.state]).toEqual([201, 1, 'recording']);
  const sound = spoken(5);
  expect(await send(made.id, sound, 0, 100_000)).toEqual({ status: 200, body: { frames: 100_000 } });
  // What is sent twice is there once; what does not follow is refused, and told where to go on.
  expect((await send(made.id, sound, 60_000, 120_000)).body.frames).toBe(120_000);
  expect(await send(made.id, sound, 130_000, 140_000)).toMatchObject({
    status: 409,
    body: { code: 'take-gap', data: { frames: 120_000 } },
  });
  await server.end('SIGKILL');
  await server.start();
  expect(await take(made.id)).toMatchObject({ state: 'recording', frames: 120_000 });
  expect((await server.json<TakeView[]>('GET', 'takes')).body.map(({ id }) => id)).toEqual([made.id]);
  expect(await end(made.id, sound.length)).toMatchObject({ status: 409, body: { code: 'take-incomplete', data: { frames: 120_000 } } });
  await send(made.id, sound, 120_000, sound.length);
  const marks = [
    { kind: 'bad', frame: 100_000 },
    { kind: 'good', frame: 200_000 },
  ];
  expect((await end(made.id, sound.length, marks, [{ frame: 150_000, frames: 128 }])).status).toBe(200);
  await server.end('SIGKILL');
  await server.start();
  const { sessionId, recordingId } = await landed(made.id);
  expect(sessionId).toBe(sittingId);
  expect(await samples(recordingId!)).toEqual(sound);
  const { document, recordings, name } = await session(sessionId!);
  expect(name).toMatch(/^Recorded \d/);
  expect(recordings).toHaveLength(1);
  const [track] = document!.tracks;
  expect(track!.chain.treatments.map(({ kind }) => kind)).toEqual(['high-pass', 'noise-reduction', 'gate']);
  expect(track!.noise).toMatchObject({ kind: 'kept', profileId: kept.id });
  expect(document!.marks.map((mark) => [mark.name, mark.startFrame, mark.endFrame])).toEqual([
    ['Chapter one · good', 0, sound.length],
    ['Chapter one: bad', 100_000, null],
    ['Chapter one: 128 samples missing', 150_000, null],
    ['Chapter one: good', 200_000, null],
  ]);
  const { survey } = (await server.json<SurveyView>('GET', `recordings/${recordingId}/survey`)).body;
  expect(survey!.findings.find(({ kind }) => kind === 'speech-level')).toBeDefined();
  // The gate knows where nobody talks, with room for voiceless beginnings.
  const quiet = track!.chain.treatments[2]!['quiet'] as { startSeconds: number; endSeconds: number }[];
  expect(quiet[0]!.startSeconds).toBe(0);
  expect(quiet[0]!.endSeconds).toBeGreaterThan(1);
  expect(quiet[0]!.endSeconds).toBeLessThan(1.5);
  // The same again changes nothing.
  expect((await end(made.id, sound.length, marks)).body.state).toBe('landed');
  expect((await session(sessionId!)).recordings).toHaveLength(1);
});

test('the next take of a sitting comes behind the one before, whatever was done there meanwhile, as one step', async () => {
  const sittingId = randomUUID();
  const record = async (seed: number, name: string): Promise<TakeView> => {
    const sound = spoken(seed);
    const { body } = await begin(sittingId, { name });
    await send(body.id, sound, 0, sound.length);
    await end(body.id, sound.length, [{ kind: 'again', frame: 5 }]);
    return landed(body.id);
  };
  const first = await record(7, 'One');
  const before = await session(first.sessionId!);
  const worked = { ...before.document!, tracks: before.document!.tracks.map((track) => ({ ...track, gainDb: -3 })) };
  const edit = { type: 'set-track', trackId: worked.tracks[0]!.id, gainDb: -3 };
  const saved = await server.json('PUT', `sessions/${before.id}/document`, {
    revision: before.revision,
    document: worked,
    steps: { from: 0, start: before.document, past: [[edit]], future: [] },
  });
  expect(saved.status).toBe(200);
  const second = await record(9, 'Two');
  expect([second.number, second.sessionId]).toEqual([2, sittingId]);
  const { document, recordings } = await session(sittingId);
  expect(recordings).toHaveLength(2);
  expect(document!.tracks).toHaveLength(1);
  expect(document!.tracks[0]!.gainDb).toBe(-3);
  expect(document!.tracks[0]!.clips.map(({ startFrame }) => startFrame)).toEqual([0, spoken(7).length + RATE_HZ]);
  expect(document!.marks.map(({ name }) => name)).toEqual(['One · again', 'One: again', 'Two · again', 'Two: again']);
  const { log } = (await server.json<{ log: { past: { type: string }[][] } }>('GET', `sessions/${sittingId}/steps`)).body;
  expect(log.past.map((edits) => edits.map(({ type }) => type))).toEqual([['set-track'], ['add-recording', 'add-marks']]);
});

test('a take whose survey is broken off comes into its session without it', async () => {
  const sound = spoken(11);
  const { body } = await begin(randomUUID());
  await send(body.id, sound, 0, sound.length);
  await end(body.id, sound.length);
  // As if somebody had cancelled it, or its worker had been lost five times.
  await until(
    () =>
      server.sql.query(`UPDATE job SET state = 'cancelled' FROM survey WHERE survey.job_id = job.id AND survey.recording_id = $1`, [
        body.id,
      ]),
    ({ rowCount }) => rowCount === 1,
  );
  const { sessionId } = await landed(body.id);
  expect((await session(sessionId!)).document!.marks.map(({ name }) => name)).toEqual(['Take']);
});

test('what makes no sense is refused with what is safe', async () => {
  const { body } = await begin(randomUUID());
  const put = (bytes: number, from = 0) =>
    server.fetch(`takes/${body.id}/sound?from=${from}`, { method: 'PUT', body: new Uint8Array(bytes) });
  expect((await put(7)).status).toBe(422);
  expect((await put(8, -2)).status).toBe(422);
  expect((await begin(randomUUID(), { sampleRateHz: 1 })).status).toBe(400);
  expect((await begin(randomUUID(), { chain: { format: 'no' } })).status).toBe(422);
  expect((await server.json('POST', `takes/${body.id}/end`, { frames: 0, marks: [], gaps: [] })).status).toBe(400);
  const shape = { frames: 1, marks: [{ kind: 'splendid', frame: 3 }], gaps: [] };
  expect((await server.json('POST', `takes/${body.id}/end`, shape)).status).toBe(422);
  expect((await server.json('POST', `takes/${body.id}/end`, { frames: 1, marks: [], gaps: [{ frame: -1, frames: 2 }] })).status).toBe(422);
  expect((await server.json('DELETE', `takes/${body.id}`)).status).toBe(204);
  expect((await server.json('GET', `takes/${body.id}`)).status).toBe(404);
  // A take that two windows begin is one.
  const sittingId = randomUUID();
  const id = randomUUID();
  expect((await begin(sittingId, { id })).body.number).toBe(1);
  expect((await begin(sittingId, { id })).body.number).toBe(1);
  expect((await begin(sittingId)).body.number).toBe(2);
});
