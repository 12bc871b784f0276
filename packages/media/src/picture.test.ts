import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { noise, RATE_HZ } from '../../dsp/src/testing/signals.js';
import { hasPicture, pictureEnding, putIntoPicture } from './picture.js';
import { ffmpeg, scratchFolder, writeFloatWav } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const SECONDS = 4;
// Steady noise with three clicks: where they come out tells whether the sound is in time.
const CLICKS = [RATE_HZ / 2, 2 * RATE_HZ + 77, 3 * RATE_HZ + 12_345];
const sound = noise(-50, SECONDS, 3);
for (const at of CLICKS) sound[at] = 0.8;

const PICTURES: Readonly<Record<string, readonly string[]>> = {
  // B-frames: the picture's first time of decoding lies before its first time of showing.
  mp4: ['-c:v', 'libx264', '-preset', 'ultrafast', '-bf', '2', '-c:a', 'aac', '-c:s', 'mov_text'],
  mov: ['-c:v', 'mjpeg', '-c:a', 'pcm_s16le', '-c:s', 'mov_text'],
  mkv: ['-c:v', 'libx264', '-preset', 'ultrafast', '-bf', '2', '-c:a', 'aac', '-c:s', 'srt'],
  webm: ['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-c:a', 'libopus', '-c:s', 'webvtt'],
};
beforeAll(() => {
  writeFloatWav(files.path('sound.wav'), sound);
  writeFileSync(files.path('words.srt'), '1\n00:00:00,500 --> 00:00:01,500\nThe mill turns.\n');
  for (const [ending, codecs] of Object.entries(PICTURES))
    ffmpeg(
      ...['-f', 'lavfi', '-i', `testsrc=s=160x120:r=25:d=${SECONDS}`, '-f', 'lavfi', '-i', `sine=440:r=48000:d=${SECONDS}`],
      ...['-f', 'lavfi', '-i', `sine=880:r=48000:d=${SECONDS}`, '-i', files.path('words.srt')],
      ...['-map', '0:v', '-map', '1:a', '-map', '2:a', '-map', '3:s', ...codecs, files.path(`in.${ending}`)],
    );
});

const pictureHash = (path: string): string =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-c', 'copy', '-f', 'streamhash', '-hash', 'sha256', '-'], {
    encoding: 'utf8',
  });
interface Told {
  readonly streams: { codec_type: string }[];
}
const told = (path: string): Told['streams'] =>
  (JSON.parse(execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', path], { encoding: 'utf8' })) as Told).streams;
/** The samples of the first sound track, one after the other. */
function heard(path: string): Float32Array {
  ffmpeg('-i', path, '-map', '0:a:0', '-ac', '1', '-f', 'f32le', files.path('heard.raw'));
  return new Float32Array(new Uint8Array(readFileSync(files.path('heard.raw'))).buffer);
}
/** When the first frame of a stream is shown or heard, by the file's clock. */
function beginsAt(path: string, stream: 'v:0' | 'a:0'): number {
  const args = [
    '-v',
    'error',
    '-select_streams',
    stream,
    '-show_entries',
    'frame=pts_time',
    '-read_intervals',
    '%+#4',
    '-of',
    'csv=p=0',
    path,
  ];
  return parseFloat(execFileSync('ffprobe', args, { encoding: 'utf8' }));
}
/** By how much the clicks are heard later than they lie in the sound that was put in, by the clock of the file, in seconds. */
function lateness(out: string, input: string): number {
  const samples = heard(out);
  const late = CLICKS.map((click) => {
    let best = click - 2000;
    for (let n = best; n < click + 4000; n++) if (Math.abs(samples[n] ?? 0) > Math.abs(samples[best] ?? 0)) best = n;
    return beginsAt(out, 'a:0') + best / RATE_HZ - beginsAt(input, 'a:0') - click / RATE_HZ;
  });
  return late.reduce((most, x) => (Math.abs(x) > Math.abs(most) ? x : most), 0);
}
/** MP4 counts in samples (its clock is told in microseconds), Matroska in milliseconds. */
const toleranceSeconds = (ending: string): number => (/m[po]/.test(ending) ? 2e-6 : 0.0011);

test.each(Object.keys(PICTURES))(
  '%s: the picture is the same bit for bit, the sound in time to the sample, the rest goes along',
  async (ending) => {
    const [input, out] = [files.path(`in.${ending}`), files.path(`out.${ending}`)];
    expect(await hasPicture(input)).toBe(true);
    await putIntoPicture(input, files.path('sound.wav'), out);
    expect(pictureHash(out)).toBe(pictureHash(input));
    const streams = told(out);
    expect(streams.map(({ codec_type }) => codec_type)).toEqual(['video', 'audio', 'audio', 'subtitle']);
    expect(beginsAt(out, 'v:0')).toBeCloseTo(beginsAt(input, 'v:0'), 4);
    expect(Math.abs(lateness(out, input))).toBeLessThan(toleranceSeconds(ending));
  },
);

test.each(['mkv', 'mp4'])('sound that begins later than the picture stays as late in %s', async (ending) => {
  ffmpeg(
    '-i',
    files.path('in.mkv'),
    '-itsoffset',
    '0.5',
    '-i',
    files.path('in.mkv'),
    '-map',
    '0:v',
    '-map',
    '1:a:0',
    '-c',
    'copy',
    files.path(`late.${ending}`),
  );
  await putIntoPicture(files.path(`late.${ending}`), files.path('sound.wav'), files.path(`late-out.${ending}`));
  expect(beginsAt(files.path(`late.${ending}`), 'a:0')).toBeGreaterThan(0.4);
  const [input, out] = [files.path(`late.${ending}`), files.path(`late-out.${ending}`)];
  expect(Math.abs(beginsAt(out, 'v:0') - beginsAt(input, 'v:0'))).toBeLessThan(toleranceSeconds(ending));
  expect(Math.abs(lateness(out, input))).toBeLessThan(toleranceSeconds(ending));
});

test('other sound tracks and subtitles are left out where that is wished', async () => {
  await putIntoPicture(files.path('in.mp4'), files.path('sound.wav'), files.path('alone.mp4'), { keepOthers: false });
  expect(told(files.path('alone.mp4')).map(({ codec_type }) => codec_type)).toEqual(['video', 'audio']);
});

test('into another container, where that holds the picture; else it is told, and nothing is left behind', async () => {
  await putIntoPicture(files.path('in.mp4'), files.path('sound.wav'), files.path('other.mkv'), { keepOthers: false });
  expect(pictureHash(files.path('other.mkv'))).toBe(pictureHash(files.path('in.mp4')));
  await expect(putIntoPicture(files.path('in.mov'), files.path('sound.wav'), files.path('no.webm'))).rejects.toMatchObject({
    code: 'encode-failed',
    message: expect.stringContaining('.mkv holds nearly all') as string,
  });
  expect([existsSync(files.path('no.webm')), existsSync(files.path('no.webm.part'))]).toEqual([false, false]);
});

test('a file without a picture is refused', async () => {
  expect(await hasPicture(files.path('sound.wav'))).toBe(false);
  await expect(putIntoPicture(files.path('sound.wav'), files.path('sound.wav'), files.path('x.mp4'))).rejects.toMatchObject({
    code: 'no-picture',
  });
});

test('endings', () => {
  expect(['a.MP4', 'a.mov', 'a.b.mkv', 'a.webm', 'a.wav', 'mp4'].map(pictureEnding)).toEqual([
    'mp4',
    'mov',
    'mkv',
    'webm',
    undefined,
    undefined,
  ]);
});
