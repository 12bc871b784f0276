import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { makePictureProxy } from './picture-proxy.js';
import { ffmpeg, scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);

/** When the tone begins, in seconds behind the first sample that is decoded. */
function toneAt(name: string): number {
  ffmpeg('-i', files.path(name), '-map', '0:a', '-f', 'f32le', files.path('tone.raw'));
  const sound = new Float32Array(new Uint8Array(readFileSync(files.path('tone.raw'))).buffer);
  return sound.findIndex((x) => Math.abs(x) > 0.05) / 48_000;
}

/** When the picture turns bright, in seconds of its clock, by ffmpeg's own filter. */
function brightAt(name: string): number {
  const said = ffmpeg('-copyts', '-i', files.path(name), '-vf', 'blackframe=amount=50:threshold=100', '-an', '-f', 'null', '-');
  const dark = [...said.matchAll(/pblack:\d+ pts:\d+ t:([\d.]+)/g)].map(([, t]) => Number(t));
  // The last dark frame before the flash of one frame in the middle.
  const gap = dark.findIndex((t, i) => i > 0 && t - dark[i - 1]! > 0.05);
  return dark[gap - 1]! + 0.04;
}

/** A dark picture of 25 frames a second that is bright in one frame, where a tone begins; its sound track begins so much later. */
function flashed(name: string, soundLaterSeconds: number, codec: readonly string[]): void {
  const flash = `geq=lum='if(eq(N,50),235,16)':cb=128:cr=128`;
  const beep = `aevalsrc='if(gte(t,${2 - soundLaterSeconds}),0.5*sin(6283*t),0)':s=48000:d=${4 - soundLaterSeconds}`;
  ffmpeg(
    ...['-f', 'lavfi', '-i', `color=black:s=640x480:r=25:d=4,format=yuv420p,${flash}`],
    ...(soundLaterSeconds > 0 ? ['-itsoffset', String(soundLaterSeconds)] : []),
    ...['-f', 'lavfi', '-i', beep, '-map', '0:v', '-map', '1:a', ...codec, files.path(name)],
  );
}

test.each([
  ['plain.mov', 0, ['-c:v', 'libx264', '-bf', '2', '-c:a', 'pcm_s16le']],
  ['late.mkv', 0.5, ['-c:v', 'libx264', '-bf', '0', '-c:a', 'flac']],
  ['late.mp4', 0.48, ['-c:v', 'libx264', '-bf', '2', '-c:a', 'aac']],
] as const)('%s: the flash of the small copy is where the tone begins, within a quarter of a frame', async (name, later, codec) => {
  flashed(name, later, codec);
  const { soundAtSeconds } = await makePictureProxy(files.path(name), files.path(`${name}.webm`));
  expect(Math.abs(soundAtSeconds + toneAt(name) - brightAt(`${name}.webm`))).toBeLessThan(0.01);
  const probe = execFileSync(
    'ffprobe',
    [
      '-v',
      'error',
      '-of',
      'json',
      '-show_entries',
      'stream=codec_name,height',
      '-count_packets',
      '-show_entries',
      'stream=nb_read_packets',
      files.path(`${name}.webm`),
    ],
    { encoding: 'utf8' },
  );
  expect(JSON.parse(probe)).toMatchObject({ streams: [{ codec_name: 'vp8', height: 270, nb_read_packets: '100' }] });
});

test('what cannot be shown is told in words, and nothing is left behind', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'sine=d=1', files.path('bare.wav'));
  await expect(makePictureProxy(files.path('bare.wav'), files.path('bare.webm'))).rejects.toMatchObject({
    code: 'encode-failed',
    message: expect.stringContaining('goes back into it all the same'),
  });
  expect(existsSync(files.path('bare.webm'))).toBe(false);
});
