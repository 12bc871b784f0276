import { readFileSync, writeFileSync } from 'node:fs';
import type { ProfileView, RenderView, SessionView, SurveyView } from '@euphonos/contracts';
import { profileToFile, takeNoiseProfile, type NoiseProfileFile } from '@euphonos/dsp';
import type { SessionDocument } from '@euphonos/engine';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
const sound = mixed(joined(silence(1.5), sine(300, -12, 2), silence(1)), noise(-50, 4.5, 3));
writeFloatWav(files.path('room.wav'), sound);
const file = profileToFile(takeNoiseProfile(kernels, [noise(-50, 2, 9)], RATE_HZ), 'Mill room', 'made for a test');

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});

const keep = async (sessionId?: string): Promise<ProfileView> =>
  (await server.json<ProfileView>('POST', 'profiles', { file, ...(sessionId ? { sessionId } : {}) })).body;
const session = async (name: string): Promise<SessionView> => {
  const { id } = await server.bringIn(name, readFileSync(files.path('room.wav')));
  return (
    await until(
      () => server.json<SessionView>('GET', `sessions/${id}`),
      ({ body }) => body.document !== null,
    )
  ).body;
};
const withNoise = ({ document }: SessionView, noise: unknown): SessionDocument => ({
  ...document!,
  tracks: document!.tracks.map((track) => ({ ...track, noise }) as never),
});
const save = (to: SessionView, document: SessionDocument) =>
  server.json('PUT', `sessions/${to.id}/document`, { revision: to.revision, document });

test('a profile is kept, listed, renamed, read back as a file and deleted', async () => {
  const kept = await keep();
  expect(kept).toMatchObject({
    name: 'Mill room',
    takenFrom: 'made for a test',
    sampleRateHz: RATE_HZ,
    channels: 1,
    sessionId: null,
    usedBy: 0,
  });
  expect((await server.json<ProfileView>('PATCH', `profiles/${kept.id}`, { name: 'Mill, by the window' })).body.name).toBe(
    'Mill, by the window',
  );
  expect((await server.json<ProfileView[]>('GET', 'profiles')).body.map(({ name }) => name)).toContain('Mill, by the window');
  const response = await server.fetch(`profiles/${kept.id}/file`);
  expect(response.headers.get('content-disposition')).toContain('Mill, by the window.noise.json');
  expect((await response.json()) as NoiseProfileFile).toEqual({ ...file, name: 'Mill, by the window' });
  expect((await server.fetch(`profiles/${kept.id}`, { method: 'DELETE' })).status).toBe(204);
  expect((await server.json('GET', `profiles/${kept.id}/file`)).status).toBe(404);
});

test('what is no profile is refused with a reason', async () => {
  expect(await server.json('POST', 'profiles', { file: { ...file, channels: [] } })).toMatchObject({
    status: 422,
    body: { code: 'profile-file' },
  });
  expect(await server.json('POST', 'profiles', { file: 'text' })).toMatchObject({ status: 400, body: { code: 'request-invalid' } });
});

test('one that a session uses is not deleted; it outlives the session that it was taken in', async () => {
  const [taken, user] = [await session('taken.wav'), await session('user.wav')];
  const kept = await keep(taken.id);
  expect((await save(user, withNoise(user, { kind: 'kept', profileId: kept.id, name: kept.name }))).status).toBe(200);
  expect(await server.json('DELETE', `profiles/${kept.id}`)).toMatchObject({
    status: 409,
    body: { code: 'profile-used', message: expect.stringContaining('"user"') },
  });
  await server.fetch(`sessions/${taken.id}?final=true`, { method: 'DELETE' });
  expect((await server.json<ProfileView[]>('GET', 'profiles')).body.find(({ id }) => id === kept.id)).toMatchObject({
    sessionId: null,
    usedBy: 1,
  });
});

test('a render takes the noise away by the kept profile, and says so when it is gone', async () => {
  const user = await session('render.wav');
  const kept = await keep(user.id);
  const document = withNoise(user, { kind: 'kept', profileId: kept.id, name: kept.name });
  const saved = await save(user, { ...document, target: { ...document.target, integratedLufs: null } });
  const { revision } = saved.body as { revision: number };
  const render = async (): Promise<RenderView> => {
    const { status, body } = await server.json<RenderView>('POST', `sessions/${user.id}/renders`, { revision, trackId: 'track-1' });
    expect(status).toBe(201);
    return server.renderEnd(user.id, body.id);
  };
  const done = await render();
  expect(done.job).toMatchObject({ state: 'done' });
  const wav = Buffer.from(await (await server.fetch(`renders/${done.id}/file`)).arrayBuffer());
  const path = files.path('rendered');
  writeFileSync(`${path}.wav`, wav);
  ffmpeg('-i', `${path}.wav`, '-f', 'f32le', '-c:a', 'pcm_f32le', `${path}.raw`);
  const bytes = readFileSync(`${path}.raw`);
  const heard = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
  expect(levelDb(sound, 12000, 60000) - levelDb(heard, 12000, 60000)).toBeGreaterThan(10);
  await server.sql.query('DELETE FROM noise_profile WHERE id = $1', [kept.id]);
  expect((await render()).job).toMatchObject({ state: 'failed', problem: { message: expect.stringContaining('noise profile') } });
  expect(await server.json('POST', `sessions/${user.id}/renders`, { revision, trackId: 'track-9' })).toMatchObject({ status: 404 });
});

test('a survey of an earlier version is made anew', async () => {
  const { recording } = await session('old.wav');
  const surveyed = () =>
    until(
      () => server.json<SurveyView>('GET', `recordings/${recording.id}/survey`),
      ({ body }) => Boolean(body.survey),
    );
  const first = (await surveyed()).body;
  await server.sql.query(`UPDATE survey SET survey = survey - 'version' WHERE recording_id = $1`, [recording.id]);
  const anew = (await surveyed()).body;
  expect(anew.job.id).not.toBe(first.job.id);
  expect(anew.survey).toEqual(first.survey);
});
