import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import type { RecordingCue, RenderView, SessionView } from '@euphonos/contracts';
import { applyEdit, type Edit } from '@euphonos/engine';
import { readCues } from '@euphonos/media';
import { joined, levelDb, mixed, noise, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { addCues } from '../../../../packages/media/src/cues.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer } from '../testing/test-server.js';

const files = scratchFolder();
const talk = voice(3);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const words = talk.map((x) => full * x);
const of = { trackId: 'track-1' };
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('float.wav'), mixed(joined(silence(1), words, silence(1), words), noise(-50, 8, 3)));
  // As it comes from a set: 16 bits, 44.1 kHz, a time of day, marks.
  ffmpeg(
    ...['-i', files.path('float.wav'), '-ar', '44100', '-c:a', 'pcm_s16le', '-write_bext', '1', '-metadata', 'time_reference=441000'],
    ...['-metadata', 'description=Scene 7', '-metadata', 'originator=Recorder', '-bitexact', files.path('7A.wav')],
  );
  await addCues(files.path('7A.wav'), [{ frame: 44_100, frames: 88_200, name: 'good', note: '' }]);
  session = await server.bringIn('7A.wav', readFileSync(files.path('7A.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});

async function rendered(what: 'clips' | 'originals', handleSeconds?: number): Promise<{ view: RenderView; path: string }[]> {
  const { revision } = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const asked = await server.json<RenderView[]>('POST', `sessions/${session.id}/pieces`, {
    revision,
    what,
    ...(handleSeconds === undefined ? {} : { handleSeconds }),
  });
  expect(asked.status).toBe(201);
  return Promise.all(
    asked.body.map(async ({ id }) => {
      const view = await server.renderEnd(session.id, id);
      const path = files.path(`${what}-${view.fileName}`);
      writeFileSync(path, Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
      return { view, path };
    }),
  );
}
const probe = (path: string) =>
  JSON.parse(execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', '-show_format', path], { encoding: 'utf8' })) as {
    streams: { codec_name: string; sample_rate: string; channels: number; duration_ts: number }[];
    format: { tags?: Record<string, string> };
  };
function samples(path: string): Float32Array {
  ffmpeg('-i', path, '-f', 'f32le', `${path}.raw`);
  return new Float32Array(new Uint8Array(readFileSync(`${path}.raw`)).buffer);
}

test('marks of the file are there to be taken', async () => {
  const { body } = await server.json<RecordingCue[]>('GET', `recordings/${session.recording.id}/cues`);
  expect(body).toEqual([{ atSeconds: 1, seconds: 2, name: 'good', note: '' }]);
});

test('in place of the original: its name, format, length and metadata, whatever was cut; cleaned', async () => {
  const latest = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const edits: Edit[] = [
    { type: 'set-noise', ...of, noise: { kind: 'passages', spans: [{ startFrame: 0, endFrame: 44_100 }] } },
    { type: 'cut-spans', ...of, spans: [{ startFrame: 44_100 * 4, endFrame: 44_100 * 5 }], close: true },
    { type: 'set-track', ...of, gainDb: -6 },
    { type: 'add-mark', mark: { id: 'm', name: 'here', startFrame: 22_050, endFrame: null, note: '' } },
  ];
  const document = edits.reduce(applyEdit, latest.document!);
  await server.json('PUT', `sessions/${session.id}/document`, { revision: latest.revision, document });
  const [only, ...more] = await rendered('originals');
  expect(more).toEqual([]);
  expect(only!.view).toMatchObject({ fileName: '7A.wav', report: null, piece: { of: 'original', fromSeconds: 0, seconds: 8 } });
  const [before, after] = [probe(files.path('7A.wav')), probe(only!.path)];
  expect(after.streams[0]).toMatchObject({
    codec_name: 'pcm_s16le',
    sample_rate: '44100',
    channels: 1,
    duration_ts: before.streams[0]!.duration_ts,
  });
  expect(after.format.tags).toMatchObject({ time_reference: '441000', comment: 'Scene 7' });
  const [was, is] = [samples(files.path('7A.wav')), samples(only!.path)];
  expect(levelDb(was, 4410, 39_690) - levelDb(is, 4410, 39_690)).toBeGreaterThan(8);
  // The words are as loud as they were: the level of the track is for the mix.
  expect(Math.abs(levelDb(is, 44_100, 4 * 44_100) - levelDb(was, 44_100, 4 * 44_100))).toBeLessThan(1);
});

test('a file for each clip, with handles, told where in its recording it begins; a delivery has the marks as cue points', async () => {
  const pieces = await rendered('clips', 0.5);
  expect(pieces.map(({ view }) => [view.fileName, view.piece])).toEqual([
    ['001 7A.wav', { of: 'clip', fromSeconds: 0, seconds: 4.5 }],
    ['002 7A.wav', { of: 'clip', fromSeconds: 4.5, seconds: 3.5 }],
  ]);
  expect(probe(pieces[1]!.path)).toMatchObject({
    streams: [{ codec_name: 'pcm_f32le', duration_ts: 3.5 * 44_100 }],
    format: { tags: { time_reference: String(441_000 + 4.5 * 44_100) } },
  });
  const { revision } = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const { id } = await server.render(session.id, revision);
  await server.renderEnd(session.id, id);
  const path = files.path('delivered.wav');
  writeFileSync(path, Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
  expect(await readCues(path)).toEqual([{ frame: 22_050, frames: null, name: 'here', note: '' }]);
});
