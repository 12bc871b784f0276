import { execFileSync } from 'node:child_process';
import { truncateSync, writeFileSync } from 'node:fs';
import { decodeSound, newReport, requireLength } from './decode.js';
import { hasPicture, putIntoPicture } from './picture.js';
import { makePictureProxy } from './picture-proxy.js';
import { probeSound } from './probe.js';
import { ffmpeg, scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const TONE = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=1'];

async function readAll(path: string): Promise<number> {
  const report = newReport();
  for await (const block of decodeSound(path, await probeSound(path), {}, report))
    if (block.frames === 0) throw new Error('An empty block.');
  return report.frames;
}
const code = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    (value) => value,
    (error: { code?: string }) => error.code ?? error,
  );

test('coded sound that no desk uses is not decoded, in whatever container it comes', async () => {
  ffmpeg(...TONE, '-c:a', 'wmav2', files.path('other.mkv'));
  // It is there, and can be decoded without the list.
  expect(execFileSync('ffprobe', ['-v', 'error', '-show_streams', files.path('other.mkv')], { encoding: 'utf8' })).toContain('wmav2');
  expect(await code(readAll(files.path('other.mkv')))).toBe('not-audio');
  ffmpeg(...TONE, '-c:a', 'pcm_alaw', files.path('known.mkv'));
  expect(await code(readAll(files.path('known.mkv')))).toBe(48000);
});

test('what stands beside the sound may be in any coding: the sound is read, and the picture goes back as it came', async () => {
  ffmpeg(...TONE, '-f', 'lavfi', '-i', 'testsrc=s=64x48:r=5:d=1', '-c:a', 'flac', '-c:v', 'libtheora', files.path('odd.mkv'));
  expect(await code(readAll(files.path('odd.mkv')))).toBe(48000);
  expect(await hasPicture(files.path('odd.mkv'))).toBe(true);
  ffmpeg(...TONE, '-af', 'volume=0.5', files.path('new.wav'));
  await putIntoPicture(files.path('odd.mkv'), files.path('new.wav'), files.path('back.mkv'));
  const pictureOf = (name: string): string =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', files.path(name), '-map', '0:v', '-c', 'copy', '-f', 'md5', '-'], { encoding: 'utf8' });
  expect(pictureOf('back.mkv')).toBe(pictureOf('odd.mkv'));
  // Only its small copy is not made.
  await expect(makePictureProxy(files.path('odd.mkv'), files.path('odd.webm'))).rejects.toThrow(
    'none that is decoded here. Its sound is treated',
  );
});

test('a list of files and a playlist are no sound, whatever their names say', async () => {
  ffmpeg(...TONE, files.path('own.wav'));
  writeFileSync(files.path('list.wav'), `ffconcat version 1.0\nfile '${files.path('own.wav')}'\n`);
  writeFileSync(files.path('list.flac'), '#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\nhttp://127.0.0.1:1/a.ts\n#EXT-X-ENDLIST\n');
  for (const name of ['list.wav', 'list.flac']) expect(await code(readAll(files.path(name)))).toBe('not-audio');
});

test('a picture larger than any that sound comes with is not decoded; the sound beside it is', async () => {
  const picture = ['-f', 'lavfi', '-i', 'color=s=16000x4400:r=2:d=1', '-c:v', 'mjpeg', '-pix_fmt', 'yuvj420p'];
  ffmpeg(...TONE, ...picture, '-c:a', 'pcm_s16le', files.path('wall.mkv'));
  expect(await code(readAll(files.path('wall.mkv')))).toBe(48000);
  expect(await code(makePictureProxy(files.path('wall.mkv'), files.path('wall.webm')))).toBe('encode-failed');
});

/** RIFF, fmt, data: 16 bits at 8 kHz. */
function plainHeader(dataBytes: number, channels = 1): Buffer {
  const header = Buffer.alloc(44);
  header.write('RIFF____WAVEfmt ', 0, 'latin1');
  header.writeUInt32LE(36 + dataBytes, 4);
  header.writeUInt32LE(16, 16);
  [1, channels].forEach((value, i) => header.writeUInt16LE(value, 20 + 2 * i));
  [8000, 16_000 * channels].forEach((value, i) => header.writeUInt32LE(value, 24 + 4 * i));
  [2 * channels, 16].forEach((value, i) => header.writeUInt16LE(value, 32 + 2 * i));
  header.write('data', 36, 'latin1');
  header.writeUInt32LE(dataBytes, 40);
  return header;
}

test('more than a day of sound and more than 64 channels are refused in words', async () => {
  // Nothing but holes on the disk.
  const bytes = (24 * 3600 + 120) * 8000 * 2;
  const header = plainHeader(bytes);
  writeFileSync(files.path('day.wav'), header);
  truncateSync(files.path('day.wav'), header.length + bytes);
  expect(await code(readAll(files.path('day.wav')))).toBe('too-long');
  // Of coded sound it is counted as it comes.
  expect(() => requireLength(24 * 3600 * 8000, 8000)).not.toThrow();
  expect(() => requireLength((24 * 3600 + 61) * 8000, 8000)).toThrow('up to 24 are read');
  writeFileSync(files.path('many.wav'), Buffer.concat([plainHeader(13_000, 65), Buffer.alloc(13_000)]));
  expect(await code(probeSound(files.path('many.wav')))).toBe('channel-count');
});
