import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import type { RenderView, SessionView } from '@euphonos/contracts';
import { applyEdit, NO_TAGS, requireFileSpec, targets, type Edit, type Cover, type FileSpec, type Report } from '@euphonos/engine';
import { openBundle } from '@euphonos/media';
import { joined, mixed, noise, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer } from '../testing/test-server.js';

const talk = voice(3);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const words = talk.map((x) => full * x);
const sound = mixed(joined(words, silence(0.7), words), noise(-70, 6.7, 3));

const files = scratchFolder();
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('in.wav'), sound);
  session = await server.bringIn('The mill.wav', readFileSync(files.path('in.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});

const passage = (id: string, name: string, from: number, to: number | null): Edit => ({
  type: 'add-mark',
  mark: { id, name, startFrame: 48_000 * from, endFrame: to === null ? null : 48_000 * to, note: '' },
});

test.each([
  ['mp3', { format: 'mp3', bitrateKbps: 128, sampleRateHz: 44_100 }, 'audio/mpeg', 44_100],
  ['m4a', { format: 'm4a', channels: 2 }, 'audio/mp4', 48_000],
  ['opus', { format: 'opus', bitrateKbps: 64 }, 'audio/ogg', 48_000],
  ['flac', { format: 'flac', bits: 16 }, 'audio/flac', 48_000],
] as const)(
  'a delivery as %s: its name, its sheet measured of it, its chapters',
  async (ending, spec: Partial<FileSpec>, mimeType, rate) => {
    const target = {
      ...targets[0]!,
      integratedLufs: -20,
      noiseFloorDbfs: null,
      file: requireFileSpec(spec),
      head: { seconds: 0.5, fill: 'room-tone' as const },
      namePattern: '{session} {target} {number}',
    };
    const edits: Edit[] = [
      { type: 'set-target', target },
      { type: 'set-tags', tags: { ...NO_TAGS, artist: 'The guides', comment: 'first; second = third' } },
      passage('m1', 'Arrival', 0, 3),
      passage('m2', 'a cough', 2, null),
      passage('m3', 'The wheel', 3, 6),
    ];
    const latest = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
    const document = edits.reduce(applyEdit, { ...latest.document!, marks: [] });
    const saved = await server.json<{ revision: number }>('PUT', `sessions/${session.id}/document`, {
      revision: latest.revision,
      document,
    });
    const { id } = await server.render(session.id, saved.body.revision);
    const { report, fileName, job } = await server.renderEnd(session.id, id);
    expect(job.state).toBe('done');
    expect(fileName).toMatch(new RegExp(`^The mill Podcast, stereo \\d\\d\\.${ending}$`));
    const response = await server.fetch(`renders/${id}/file`);
    expect(response.headers.get('content-type')).toContain(mimeType);
    const path = files.path(`out.${ending}`);
    writeFileSync(path, Buffer.from(await response.arrayBuffer()));
    const verdicts = Object.fromEntries(report!.lines.map(({ title, passed }) => [title, passed]));
    expect(verdicts).toMatchObject({ 'Integrated loudness': true, 'True peak': true, 'Sample rate': true, Length: true, Head: true });
    expect(report!.after.sampleRateHz).toBe(rate);
    expect(Math.abs(report!.after.integratedLufs! - ebur128(path).integratedLufs)).toBeLessThanOrEqual(0.1);
    const told = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_chapters', '-show_entries', 'format_tags:stream_tags', path], {
        encoding: 'utf8',
      }),
    ) as {
      chapters: { start_time: string; tags: { title: string } }[];
      format: { tags?: Record<string, string> };
      streams: { tags?: Record<string, string> }[];
    };
    // MP4 tells chapters from the beginning on: what lies before is one without a name.
    expect(told.chapters.map(({ start_time, tags }) => [Number(start_time), tags.title])).toEqual([
      ...(ending === 'm4a' ? [[0, '–']] : []),
      [0.5, 'Arrival'],
      [3.5, 'The wheel'],
    ]);
    const tags = Object.fromEntries(
      [told.format, told.streams[0]!].flatMap((one) => Object.entries(one.tags ?? {})).map(([key, value]) => [key.toLowerCase(), value]),
    );
    expect(tags).toMatchObject({ artist: 'The guides', comment: 'first; second = third', title: fileName.replace(`.${ending}`, '') });
  },
);

test('a cover by hand: in a file that holds one, in the bundle of its session; what is no picture is refused', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'testsrc=s=64x64:d=1', '-frames:v', '1', files.path('cover.png'));
  const keep = (bytes: Uint8Array) => server.fetch('covers', { method: 'POST', body: bytes as BodyInit });
  const kept = await keep(readFileSync(files.path('cover.png')));
  const cover = (await kept.json()) as Cover;
  expect([kept.status, cover.type]).toEqual([201, 'image/png']);
  expect((await keep(Buffer.from('<svg onload=alert(1)>'))).status).toBe(422);
  expect((await keep(new Uint8Array(5 * 2 ** 20 + 1))).status).toBe(413);
  expect((await server.fetch(`covers/${cover.sha256}`)).headers.get('content-type')).toBe('image/png');
  // Nothing else of the store is handed out as a cover.
  const { sha256 } = session.recording;
  expect((await server.fetch(`covers/${sha256}`)).status).toBe(404);
  const latest = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const edits: Edit[] = [
    { type: 'set-cover', cover },
    { type: 'set-target', target: { ...latest.document!.target, file: requireFileSpec({ format: 'mp3' }), head: null } },
  ];
  const document = edits.reduce(applyEdit, latest.document!);
  const { revision } = (
    await server.json<{ revision: number }>('PUT', `sessions/${session.id}/document`, { revision: latest.revision, document })
  ).body;
  const { id } = await server.render(session.id, revision);
  expect((await server.renderEnd(session.id, id)).job.state).toBe('done');
  writeFileSync(files.path('covered.mp3'), Buffer.from(await (await server.fetch(`renders/${id}/file`)).arrayBuffer()));
  ffmpeg('-i', files.path('covered.mp3'), '-map', '0:v', '-c', 'copy', '-f', 'image2', '-update', '1', files.path('taken.png'));
  expect(readFileSync(files.path('taken.png')).equals(readFileSync(files.path('cover.png')))).toBe(true);
  writeFileSync(files.path('b.zip'), Buffer.from(await (await server.fetch(`sessions/${session.id}/bundle`)).arrayBuffer()));
  const open = await openBundle(files.path('b.zip'));
  const parts: Buffer[] = [];
  for await (const part of await open.source(cover.sha256)) parts.push(part as Buffer);
  open.close();
  expect(Buffer.concat(parts).equals(readFileSync(files.path('cover.png')))).toBe(true);
  await server.json('PUT', `sessions/${session.id}/document`, { revision, document: latest.document! });
});

test('into the picture that it came with: that is the same bit for bit; a cut that would leave it is refused in words', async () => {
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc=s=160x120:r=25:d=6.7', '-i', files.path('in.wav'), '-c:v', 'libx264', '-preset', 'ultrafast'],
    ...['-c:a', 'pcm_s24le', files.path('in.mov')],
  );
  const video = await server.bringIn('The mill.mov', readFileSync(files.path('in.mov')));
  expect(video.recording.facts).toMatchObject({ picture: true, lengthFrames: sound.length });
  expect(session.recording.facts).toMatchObject({ picture: false });
  const ask = (id: string, revision: number) =>
    server.json<RenderView & { message: string }>('POST', `sessions/${id}/renders`, { revision, intoPicture: true });
  const { id } = (await ask(video.id, video.revision)).body;
  const { job, fileName, report } = await server.renderEnd(video.id, id);
  expect([job.state, fileName]).toEqual(['done', 'The mill (cleaned).mov']);
  expect(report!.lines.find(({ title }) => title === 'Integrated loudness')).toMatchObject({ passed: true });
  const response = await server.fetch(`renders/${id}/file`);
  expect(response.headers.get('content-type')).toContain('video/quicktime');
  writeFileSync(files.path('out.mov'), Buffer.from(await response.arrayBuffer()));
  const hash = (name: string): string =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', files.path(name), '-map', '0:v', '-c', 'copy', '-f', 'streamhash', '-'], {
      encoding: 'utf8',
    });
  expect(hash('out.mov')).toBe(hash('in.mov'));
  expect(Math.abs(ebur128(files.path('out.mov')).integratedLufs + 16)).toBeLessThanOrEqual(0.101);

  const cut = applyEdit(video.document!, {
    type: 'cut-spans',
    trackId: 'track-1',
    spans: [{ startFrame: 48_000, endFrame: 72_000 }],
    close: true,
  } as Edit);
  const saved = await server.json<{ revision: number }>('PUT', `sessions/${video.id}/document`, {
    revision: video.revision,
    document: cut,
  });
  const refused = await ask(video.id, saved.body.revision);
  expect([refused.status, refused.body.message]).toEqual([409, expect.stringContaining('0.500 s shorter than its picture')]);
  const bare = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  expect((await ask(session.id, bare.revision)).body.message).toContain('came without a picture');
});

test('a target that cannot be written is refused in words, and nothing is saved', async () => {
  const latest = (await server.json<SessionView>('GET', `sessions/${session.id}`)).body;
  const document = { ...latest.document!, target: { ...latest.document!.target, file: { format: 'opus', sampleRateHz: 44_100 } } };
  const answer = await server.json<{ code: string; message: string }>('PUT', `sessions/${session.id}/document`, {
    revision: latest.revision,
    document,
  });
  expect(answer.status).toBe(422);
  expect(answer.body.message).toContain('Opus has rates of 48000 Hz; 44100 was given.');
});

test('its report: all of it in words, as JSON, as a page that needs nothing else, and on paper', async () => {
  const { rows } = await server.sql.query<{ id: string }>(
    `SELECT render.id FROM render WHERE session_id = $1 AND report IS NOT NULL ORDER BY finished_at DESC LIMIT 1`,
    [session.id],
  );
  const get = (ending: string) => server.fetch(`renders/${rows[0]!.id}/report.${ending}`);
  const report = (await (await get('json')).json()) as Report;
  expect(report.received).toMatchObject([{ fileName: 'The mill.wav', words: expect.stringContaining('48 kHz, mono') }]);
  expect(report.received[0]!.figures.map(({ title }) => title)).toContain('Noise floor');
  const [highPass] = report.done[0]!.treatments;
  expect(highPass).toMatchObject({ title: 'High-pass', settings: expect.arrayContaining([expect.objectContaining({ value: '80 Hz' })]) });
  expect(report.measured.map(({ title }) => title)).toEqual(expect.arrayContaining(['Integrated loudness', 'True peak', 'Length']));
  expect(report.terms.map(({ term }) => term)).toEqual(expect.arrayContaining(['LUFS', 'dBTP', 'dBFS']));
  const html = await (await get('html')).text();
  expect(html).toContain('<svg viewBox');
  // Pictures are in it, and nothing is asked of anybody else.
  expect(html.match(/src="data:image\/png;base64,/g)).toHaveLength(2);
  expect(html).not.toMatch(/<script|src="(?!data:)|href=/);
  const pdf = Buffer.from(await (await get('pdf')).arrayBuffer());
  expect(pdf.subarray(0, 5).toString('latin1')).toBe('%PDF-');
  expect(pdf.length).toBeGreaterThan(20_000);
  expect((await server.fetch(`renders/${session.id}/report.json`)).status).toBe(404);
});
