import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import type { SessionPage, SessionView } from '@euphonos/contracts';
import { defaultTreatment } from '@euphonos/dsp';
import { applyEdit, targets, type SessionDocument } from '@euphonos/engine';
import { joined, mixed, noise, silence, sine } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { TestServer, until } from './testing/test-server.js';

const files = scratchFolder();
const sound = mixed(joined(silence(1), sine(300, -12, 2), silence(1)), noise(-50, 4, 3));
let server: TestServer;
let session: SessionView;
const wav = (name: string, samples = sound, options: object = {}): Buffer => {
  writeFloatWav(files.path(name), samples, options);
  return readFileSync(files.path(name));
};
beforeAll(async () => {
  server = await TestServer.create();
  session = await server.bringIn('Narrator, take 2.wav', wav('in.wav'));
});
afterAll(async () => {
  await server.close();
  files.remove();
});
const save = (revision: number, document: unknown) =>
  server.json('PUT', `sessions/${session.id}/document`, { revision, document: document as object });
const latest = async (): Promise<SessionView> => (session = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body);
const quieter = (document: SessionDocument): SessionDocument =>
  applyEdit(document, { type: 'set-target', target: targets.find(({ integratedLufs }) => integratedLufs === -23)! });

describe('a recording that comes in', () => {
  test('becomes a session with its facts and a first document', () => {
    expect(session).toMatchObject({
      name: 'Narrator, take 2',
      revision: 1,
      recording: { fileName: 'Narrator, take 2.wav', facts: { lengthFrames: 192_000, channels: 1, sampleRateHz: 48000, notes: [] } },
    });
    expect(session.document!.tracks[0]).toMatchObject({
      reel: [{ recordingId: session.recording.id, startFrame: 0, frames: 192_000 }],
      clips: [{ source: { startFrame: 0, endFrame: 192_000 } }],
    });
  });

  test('gives its samples back in any range, to the bit', async () => {
    const response = await server.fetch(`recordings/${session.recording.id}/channels/0`, { headers: { range: 'bytes=4000-7999' } });
    expect(response.status).toBe(206);
    expect(new Float32Array(await response.arrayBuffer())).toEqual(sound.subarray(1000, 2000));
  });

  test('has peaks: the coarsest level covers the whole, with its greatest sample', async () => {
    const peaks = new Float32Array(await (await server.fetch(`recordings/${session.recording.id}/peaks`)).arrayBuffer());
    const greatest = sound.reduce((most, x) => Math.max(most, x), 0);
    expect(Math.max(...Array.from({ length: 40 }, (_, i) => peaks[i * 3 + 1]!))).toBe(greatest);
  });

  test('of the same bytes is stored once', async () => {
    const count = (): number =>
      readdirSync(server.media, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile()).length;
    const before = count();
    await server.bringIn('again.wav', readFileSync(files.path('in.wav')));
    expect(count()).toBe(before);
  });

  test.each([
    ['a "quoted" / path \\ name.wav', 'name'],
    ['ünï 🌊.wav', 'ünï 🌊'],
    [`${'n'.repeat(300)}.wav`, 'n'.repeat(200)],
    ['line\nbreak\u0000.wav', 'linebreak'],
    ['.wav', '.wav'],
    ['   ', 'recording'],
  ])('may be called %j', async (given, name) => {
    expect((await server.bringIn(given, readFileSync(files.path('in.wav')))).name.trim()).toBe(name);
  });

  test('in stereo keeps both channels; of six the first two are used', async () => {
    const six = await server.bringIn(
      'six.wav',
      wav(
        'six.wav',
        Float32Array.from({ length: 6 * 9600 }, (_, i) => (i % 6) / 10),
        { channels: 6 },
      ),
    );
    expect(six.recording.facts!.channels).toBe(6);
    expect(six.document!.tracks[0]!.reel[0]!.channels).toEqual([0, 1]);
    const fifth = await server.fetch(`recordings/${six.recording.id}/channels/4`, { headers: { range: 'bytes=0-3' } });
    expect(new Float32Array(await fifth.arrayBuffer())[0]).toBeCloseTo(0.4);
  });
});

describe('bad files', () => {
  test('an empty one is refused', async () => {
    await expect(server.bringIn('empty.wav', new Uint8Array(0))).rejects.toMatchObject({ code: 'file-empty' });
  });

  test('one that is not sound fails with words, and the app goes on', async () => {
    const { recording, document } = await server.bringIn('letter.wav', Buffer.from('Dear engineer, no sound here. '.repeat(50)));
    expect(recording.job).toMatchObject({
      state: 'failed',
      problem: { code: 'not-audio', message: expect.stringContaining('No sound was found') },
    });
    expect(document).toBeNull();
    expect((await server.json('GET', 'sessions')).status).toBe(200);
  });

  test('a truncated one is kept as far as it goes, and says so', async () => {
    const { recording } = await server.bringIn('cut.wav', readFileSync(files.path('in.wav')).subarray(0, 200_000));
    expect(recording.facts!.lengthFrames).toBe(Math.floor((200_000 - 44) / 4));
    expect(recording.facts!.notes[0]).toMatch(/truncated: its header promises 4.0 s, 1.0 s are there/);
  });

  test('NaN and infinite samples are silenced and counted', async () => {
    const samples = Float32Array.from(sound);
    samples.set([NaN, Infinity, -Infinity], 5000);
    const { recording } = await server.bringIn('nan.wav', wav('nan.wav', samples));
    expect(recording.facts!.notes[0]).toMatch(/3 samples were not numbers/);
    expect(Number.isFinite(recording.facts!.figures.integratedLufs)).toBe(true);
  });

  test('an upload that breaks off leaves nothing', async () => {
    const before = (await server.json<SessionPage>('GET', 'sessions')).body.total;
    await new Promise<void>((resolve) => {
      const upload = request({
        port: server.port,
        host: '127.0.0.1',
        method: 'POST',
        path: '/api/recordings?name=broken.wav',
        headers: { 'content-type': 'application/octet-stream', 'content-length': 5_000_000 },
      });
      upload.on('error', () => resolve());
      upload.write(Buffer.alloc(100_000), () => setTimeout(() => upload.destroy(), 100));
    });
    await until(
      async () => readdirSync(join(server.media, 'work')).length,
      (count) => count === 0,
    );
    expect((await server.json<SessionPage>('GET', 'sessions')).body.total).toBe(before);
  });
});

describe('saving', () => {
  test('raises the revision; a save from an older one is refused and changes nothing', async () => {
    const { revision, document } = await latest();
    expect(await save(revision, quieter(document!))).toMatchObject({ status: 200, body: { revision: revision + 1 } });
    expect(await save(revision, document)).toMatchObject({
      status: 409,
      body: { code: 'stale-revision', data: { revision: revision + 1 } },
    });
    expect((await latest()).document!.target.integratedLufs).toBe(-23);
  });

  test('of two at once exactly one wins', async () => {
    const { revision, document } = await latest();
    const answers = await Promise.all(Array.from({ length: 6 }, () => save(revision, document)));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409, 409, 409, 409]);
  });

  test('a document that is not one is refused with the place', async () => {
    const { revision, document } = await latest();
    const change = (part: object): unknown => ({ ...document, ...part });
    expect(await save(revision, change({ tracks: 3 }))).toMatchObject({
      status: 422,
      body: { code: 'document-shape', message: expect.stringContaining('tracks') },
    });
    expect(await save(revision, change({ schemaVersion: 9 }))).toMatchObject({ status: 422, body: { code: 'document-version' } });
    const withChain = (treatment: object) => change({ tracks: [{ ...document!.tracks[0], chain: { treatments: [treatment] } }] });
    expect(await save(revision, withChain({ kind: 'polish' }))).toMatchObject({ status: 422, body: { code: 'treatment-unknown' } });
    expect(await save(revision, withChain({ kind: 'high-pass', cutoffHz: 9 }))).toMatchObject({
      status: 422,
      body: { code: 'parameter-range', message: expect.stringMatching(/20 to 500 Hz; 9/) },
    });
    expect((await latest()).revision).toBe(revision);
  });

  test('a session of an older version opens with the defaults of what it did not know, and sounds as it did', async () => {
    const before = await latest();
    await server.sql.query(
      `UPDATE session SET document = jsonb_set(document, '{tracks,0,chain}', '{"treatments": [{"kind": "noise-reduction", "id": "old", "bypassed": false, "reductionDb": 9}]}') WHERE id = $1`,
      [session.id],
    );
    const [treatment] = (await latest()).document!.tracks[0]!.chain.treatments;
    // There was no gain network then.
    expect(treatment).toEqual({ ...defaultTreatment('noise-reduction'), network: 'light', id: 'old', reductionDb: 9 });
    await server.sql.query('UPDATE session SET document = $2 WHERE id = $1', [session.id, JSON.stringify(before.document)]);
  });

  test('a request with more or less than is asked for is refused', async () => {
    expect(await server.json('PUT', `sessions/${session.id}/document`, { document: {} })).toMatchObject({
      status: 400,
      body: { code: 'request-invalid' },
    });
    expect(await server.json('PATCH', `sessions/${session.id}`, { name: 'x', admin: true })).toMatchObject({ status: 400 });
    expect(await server.json('PATCH', `sessions/${session.id}`, { name: 'n'.repeat(201) })).toMatchObject({ status: 400 });
    expect(await server.json('GET', 'sessions/not-an-id')).toMatchObject({ status: 400 });
    expect(await server.json('GET', 'sessions/00000000-0000-4000-8000-000000000000')).toMatchObject({
      status: 404,
      body: { code: 'not-found' },
    });
  });
});

describe('rendering', () => {
  test('brings the result to the target, checks it, and hands it over; progress is reported', async () => {
    const before = await latest();
    await save(before.revision, quieter(before.document!));
    const { revision } = await latest();
    const heard = server.listen();
    await new Promise((resolve) => setTimeout(resolve, 200));
    const { id } = await server.render(session.id, revision);
    const { report, job, fileName } = await server.renderEnd(session.id, id);
    expect(job.state).toBe('done');
    expect(report!.lines.map(({ title, passed }) => [title, passed])).toEqual([
      ['Integrated loudness', true],
      ['Loudness range', null],
      ['True peak', true],
      ['Noise floor', null],
      ['Sample rate', true],
      ['Bit depth', true],
      ['Channels', null],
      ['Length', true],
    ]);
    const response = await server.fetch(`renders/${id}/file`);
    expect(response.headers.get('content-disposition')).toBe(`attachment; filename="${fileName}"`);
    writeFileSync(files.path('out.wav'), Buffer.from(await response.arrayBuffer()));
    const outside = ebur128(files.path('out.wav'));
    expect(Math.abs(outside.integratedLufs + 23)).toBeLessThanOrEqual(0.2);
    expect(ffmpeg('-i', files.path('out.wav'), '-f', 'null', '-')).toMatch(/00:00:04\.00.*pcm_s24le/s);
    await until(
      async () => heard.events.filter(({ subjectId }) => subjectId === id).map(({ job: { state } }) => state),
      (states) => states.includes('done'),
    );
    heard.stop();
    // On a busy machine a survey of before may still be told of on the same stream.
    const told = heard.events.filter(({ subjectId }) => subjectId === id);
    expect(told.length).toBeGreaterThan(0);
    expect(told.every(({ sessionId }) => sessionId === session.id)).toBe(true);
    expect((await latest()).lastDelivery).toMatchObject({ passed: true });
  });

  test('of an older revision is refused', async () => {
    const { revision } = await latest();
    expect(await server.json('POST', `sessions/${session.id}/renders`, { revision: revision - 1 })).toMatchObject({
      status: 409,
      body: { code: 'stale-revision' },
    });
  });
});

test('the API describes itself', async () => {
  const { body } = await server.json<{ paths: Record<string, unknown> }>('GET', 'docs-json');
  expect(Object.keys(body.paths)).toEqual(
    expect.arrayContaining(
      ['/api/sessions', '/api/recordings', '/api/sessions/{sessionId}/renders', '/api/events'].map((path) =>
        expect.stringMatching(new RegExp(`^${path.replace(/\{.*?\}/g, '\\{\\w+\\}')}$`)),
      ),
    ),
  );
});

test('a removed session is gone, with its recording and deliveries', async () => {
  expect((await server.json('DELETE', `sessions/${session.id}?final=true`)).status).toBe(204);
  expect((await server.json('GET', `sessions/${session.id}`)).status).toBe(404);
  expect((await server.fetch(`recordings/${session.recording.id}/peaks`)).status).toBe(404);
  const { rows } = await server.sql.query('SELECT count(*)::int AS n FROM job WHERE session_id = $1', [session.id]);
  expect(rows[0].n).toBe(0);
});
