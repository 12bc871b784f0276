import { readFileSync, writeFileSync } from 'node:fs';
import type { SessionView } from '@euphonos/contracts';
import { applyEdit, endOf, targets, type Edit, type SessionDocument } from '@euphonos/engine';
import { joined, levelDb, mixed, noise, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer } from '../testing/test-server.js';

/** Two words in a room: 0–1 s nothing, 1–2 s, 2–4 s nothing, 4–5 s, 5–6 s nothing. */
const word = sine(300, -14, 1).map((x, n) => x * Math.sin((Math.PI * n) / 48_000));
const sound = mixed(joined(silence(1), word, silence(2), word, silence(1)), noise(-50, 6, 3));
const of = { trackId: 'track-1' };
const at = (from: number, to: number) => ({ startFrame: Math.round(from * 48_000), endFrame: Math.round(to * 48_000) });

const files = scratchFolder();
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('in.wav'), sound);
  session = await server.bringIn('words.wav', readFileSync(files.path('in.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});

async function rendered(edits: readonly Edit[]): Promise<{ out: Float32Array; document: SessionDocument }> {
  const bare: SessionDocument = {
    ...session.document!,
    target: { ...targets[0]!, integratedLufs: null, ceilingDbtp: 0 },
    tracks: session.document!.tracks.map((track) => ({ ...track, chain: { treatments: [] } })),
  };
  const document = edits.reduce(applyEdit, bare);
  const latest = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const saved = await server.json<{ revision: number }>('PUT', `sessions/${session.id}/document`, { revision: latest.revision, document });
  const { id } = await server.render(session.id, saved.body.revision);
  expect((await server.renderEnd(session.id, id)).job).toMatchObject({ state: 'done' });
  writeFileSync(files.path('out.wav'), Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
  ffmpeg('-i', files.path('out.wav'), '-f', 'f32le', files.path('out.raw'));
  return { out: new Float32Array(new Uint8Array(readFileSync(files.path('out.raw'))).buffer), document };
}
const difference = (a: Float32Array, b: Float32Array): number => a.reduce((most, x, n) => Math.max(most, Math.abs(x - b[n]!)), 0);

test('without an edit the file is the source, to the last of its 24 bits', async () => {
  const { out } = await rendered([]);
  expect(out.length).toBe(sound.length);
  expect(difference(out, sound)).toBeLessThanOrEqual(1.5 * 2 ** -23);
});

test('as long as the document states to the sample; cut, silent, lowered and filled where it says so', async () => {
  const { out, document } = await rendered([
    { type: 'set-room-tone', ...of, span: at(0, 0.9) },
    { type: 'cut-spans', ...of, spans: [at(2.25, 3.75)], close: true },
    {
      type: 'fill-spans',
      ...of,
      spans: [
        { ...at(0.1, 0.8), sound: { kind: 'silence' } },
        { ...at(3.6, 4.2), sound: { kind: 'room-tone', gainDb: 0 } },
      ],
    },
    { type: 'level-spans', ...of, spans: [at(1, 2)], byDb: -6 },
  ]);
  expect(out.length).toBe(endOf(document.tracks[0]!.clips));
  expect(out.length).toBe(sound.length - 1.5 * 48_000);
  const level = (from: number, to: number): number => levelDb(out, Math.round(from * 48_000), Math.round(to * 48_000));
  expect(level(0.11, 0.79)).toBeLessThan(-150);
  expect(level(1.1, 1.9) - levelDb(sound, 52_800, 91_200)).toBeCloseTo(-6, 2);
  expect(Math.abs(level(3.62, 4.18) + 50)).toBeLessThan(1);
  expect(level(2.6, 3.4) - levelDb(sound, 196_800, 235_200)).toBeCloseTo(0, 2);
});

test('a session that was stored before tracks had clips opens, and renders as it did', async () => {
  const { document, revision } = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const [track] = session.document!.tracks;
  const { id, name, role, reel, loop } = track!;
  const { recordingId, channels } = reel[0]!;
  const clip = {
    id: 'clip-1',
    recordingId,
    startFrame: 0,
    source: { startFrame: 0, endFrame: sound.length },
    channels,
    chain: { treatments: [] },
    noise: null,
    noiseHeld: false,
    loop,
  };
  await server.sql.query('UPDATE session SET document = $2 WHERE id = $1', [
    session.id,
    JSON.stringify({ ...document, schemaVersion: 2, tracks: [{ id, name, role, clips: [clip] }] }),
  ]);
  const { id: renderId } = await server.render(session.id, revision);
  expect((await server.renderEnd(session.id, renderId)).report!.after.durationSeconds).toBe(6);
});
