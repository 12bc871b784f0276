import { readFileSync, writeFileSync } from 'node:fs';
import type { RenderView, SessionView } from '@euphonos/contracts';
import { parseChain } from '@euphonos/dsp';
import { applyEdit, type Edit, type SessionDocument } from '@euphonos/engine';
import { joined, levelDb, mixed, noise, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
writeFloatWav(files.path('talk.wav'), mixed(joined(silence(0.5), sine(300, -18, 1.5), silence(0.5)), noise(-55, 2.5, 3)));
writeFloatWav(files.path('bed.wav'), sine(150, -30, 4));
const talk = readFileSync(files.path('talk.wav'));
const bed = readFileSync(files.path('bed.wav'));

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});
const save = (view: SessionView, document: SessionDocument) =>
  server.json<{ revision: number }>('PUT', `sessions/${view.id}/document`, { revision: view.revision, document });
const edit = (view: SessionView, ...edits: Edit[]): SessionDocument => edits.reduce(applyEdit, view.document!);

test('stems: a file for each track that is heard, all as long and as wide as the mix, and their sum is the mix', async () => {
  const { sessionId } = await server.send('name=talk.wav&placing=tracks', talk);
  await server.send(`name=bed.wav&session=${sessionId}`, bed);
  await server.send(`name=silent.wav&session=${sessionId}`, talk);
  await server.json('POST', `sessions/${sessionId}/gathered`, {});
  const view = await until(
    () => server.json<SessionView>('GET', `sessions/${sessionId}`).then(({ body }) => body),
    ({ document }) => document !== null,
  );
  const asIs = { ...view.document!.target, integratedLufs: null, ceilingDbtp: 0 };
  const document = edit(
    view,
    { type: 'set-track', trackId: 'track-1', pan: -0.5, gainDb: -3 },
    { type: 'set-track', trackId: 'track-2', role: 'bed', pan: 0.5 },
    { type: 'set-track', trackId: 'track-3', muted: true },
    { type: 'set-target', target: asIs },
  );
  const { revision } = (await save(view, document)).body;
  const stems = (await server.json<RenderView[]>('POST', `sessions/${sessionId}/stems`, { revision })).body;
  expect(stems.map(({ fileName, stem }) => [fileName, stem])).toEqual([
    ['talk, talk (stem).wav', true],
    ['talk, bed (stem).wav', true],
  ]);
  const mix = await server.render(sessionId, revision);
  const sounds: Float32Array[][] = [];
  for (const { id } of [...stems, mix]) {
    expect((await server.renderEnd(sessionId, id)).job.state).toBe('done');
    const path = files.path(`${id}.wav`);
    writeFileSync(path, Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
    ffmpeg('-y', '-i', path, '-f', 'f32le', `${path}.raw`);
    const all = new Float32Array(new Uint8Array(readFileSync(`${path}.raw`)).buffer);
    sounds.push([0, 1].map((c) => all.filter((_, i) => i % 2 === c)));
  }
  const [first, second, sum] = sounds as [Float32Array[], Float32Array[], Float32Array[]];
  for (const sound of sounds) expect(sound[0]!.length).toBe(192_000);
  for (const c of [0, 1]) expect(levelDb(sum[c]!.map((x, n) => x - first[c]![n]! - second[c]![n]!))).toBeLessThan(-120);
  expect(levelDb(second[1]!) - levelDb(second[0]!)).toBeCloseTo(20 * Math.log10(Math.tan((1.5 * Math.PI) / 4)), 1);
  const nothing = { ...view, revision };
  await save(
    nothing,
    edit(
      { ...nothing, document },
      { type: 'set-track', trackId: 'track-1', muted: true },
      { type: 'set-track', trackId: 'track-2', muted: true },
    ),
  );
  expect(await server.json('POST', `sessions/${sessionId}/stems`, { revision: revision + 1 })).toMatchObject({
    status: 409,
    body: { code: 'all-muted' },
  });
});

test('noise reduction on the whole weighs by the noise of all tracks together', async () => {
  writeFloatWav(files.path('one.wav'), noise(-50, 5, 21));
  writeFloatWav(files.path('two.wav'), mixed(noise(-56, 5, 22), joined(silence(3), sine(400, -20, 1), silence(1))));
  const { sessionId } = await server.send('name=one.wav&placing=tracks', readFileSync(files.path('one.wav')));
  await server.send(`name=two.wav&session=${sessionId}`, readFileSync(files.path('two.wav')));
  await server.json('POST', `sessions/${sessionId}/gathered`, {});
  const view = await until(
    () => server.json<SessionView>('GET', `sessions/${sessionId}`).then(({ body }) => body),
    ({ document }) => document !== null,
  );
  const none = { treatments: [] };
  const document = edit(
    view,
    { type: 'take-chain', name: '', chain: none, trackIds: ['track-1', 'track-2'] },
    {
      type: 'take-chain',
      name: '',
      chain: parseChain({
        treatments: [
          { kind: 'high-pass', cutoffHz: 80 },
          { kind: 'noise-reduction', reductionDb: 12 },
        ],
      }),
      trackIds: ['whole'],
    },
    { type: 'set-target', target: { ...view.document!.target, integratedLufs: null, ceilingDbtp: 0 } },
  );
  const sounds: Float32Array[] = [];
  let { revision } = view;
  for (const spans of [
    [],
    [
      { startFrame: 24_000, endFrame: 72_000 },
      { startFrame: 76_000, endFrame: 120_000 },
    ],
  ]) {
    revision = (await save({ ...view, revision }, applyEdit(document, { type: 'set-whole-noise', spans }))).body.revision;
    const { id } = await server.render(sessionId, revision);
    expect((await server.renderEnd(sessionId, id)).job).toMatchObject({ state: 'done' });
    writeFileSync(files.path('mix.wav'), Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
    ffmpeg('-y', '-i', files.path('mix.wav'), '-f', 'f32le', files.path('mix.raw'));
    sounds.push(new Float32Array(new Uint8Array(readFileSync(files.path('mix.raw'))).buffer));
  }
  const [without, weighed] = sounds as [Float32Array, Float32Array];
  // -50 and -56 dBFS together; without a profile it does nothing.
  expect(levelDb(without, 30_000, 120_000)).toBeCloseTo(-49, 0);
  expect(levelDb(weighed, 30_000, 120_000) - levelDb(without, 30_000, 120_000)).toBeLessThan(-10);
  expect(levelDb(weighed, 150_000, 185_000)).toBeCloseTo(-23, 0);
});
