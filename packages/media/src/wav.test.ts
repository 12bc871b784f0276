import { execFileSync } from 'node:child_process';
import { readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { noise } from '../../dsp/src/testing/signals.js';
import { decodeSound, newReport } from './decode.js';
import { WavEncoder } from './encode.js';
import { loadKernels } from './kernels.js';
import { probeSound } from './probe.js';
import { scratchFolder, writeFloatWav } from './testing/files.js';
import { wavHeader, WAV_HEADER_BYTES } from './wav-header.js';
import { plainWav } from './wav-reader.js';

const files = scratchFolder();
afterAll(() => files.remove());
const run = (...args: string[]): Buffer => execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args], { maxBuffer: 1 << 28 });
/** A file as ffmpeg decodes it: interleaved floats. */
const reference = (path: string): Float32Array => {
  const bytes = run('-i', path, '-f', 'f32le', '-');
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
};
async function decoded(path: string): Promise<Float32Array> {
  const out: number[] = [];
  const report = newReport();
  for await (const { channels, frames } of decodeSound(path, await probeSound(path), {}, report))
    for (let n = 0; n < frames; n++) for (const samples of channels) out.push(samples[n]!);
  return Float32Array.from(out);
}
const left = noise(-12, 1.3, 4).map((x) => Math.max(-1, Math.min(1, 2 * x)));

test.each(['pcm_s16le', 'pcm_s24le', 'pcm_s32le', 'pcm_f32le'])(
  '%s is read as ffmpeg reads it, to the bit, in one and two channels',
  async (codec) => {
    writeFloatWav(files.path('in.wav'), left);
    for (const channels of ['1', '2']) {
      const path = files.path(`${codec}-${channels}.wav`);
      run('-i', files.path('in.wav'), '-ac', channels, '-c:a', codec, path);
      expect(await plainWav(path)).toMatchObject({ codec, channels: Number(channels), sampleRateHz: 48_000 });
      expect(await decoded(path)).toEqual(reference(path));
    }
  },
);

test('what does not lie there as samples is left to the decoder', async () => {
  writeFloatWav(files.path('in.wav'), left);
  for (const codec of ['pcm_u8', 'adpcm_ms', 'pcm_alaw', 'pcm_f64le']) {
    const path = files.path(`${codec}.wav`);
    run('-i', files.path('in.wav'), '-c:a', codec, path);
    expect(await plainWav(path)).toBeNull();
    expect((await decoded(path)).length).toBeGreaterThan(60_000);
  }
  writeFileSync(files.path('odd.wav'), Buffer.from('RIFF\x04\0\0\0WAVEfmt \x10\0\0\0', 'latin1'));
  expect(await plainWav(files.path('odd.wav'))).toBeNull();
});

test('RF64 and a file that ends early are read as far as they go', async () => {
  writeFloatWav(files.path('in.wav'), left);
  run('-i', files.path('in.wav'), '-rf64', 'always', files.path('long.wav'));
  expect(await decoded(files.path('long.wav'))).toEqual(reference(files.path('long.wav')));
  run('-i', files.path('in.wav'), files.path('cut.wav'));
  truncateSync(files.path('cut.wav'), 50_001);
  const facts = await probeSound(files.path('cut.wav'));
  expect(facts.statedSeconds).toBeCloseTo(1.3, 3);
  const length = (await decoded(files.path('cut.wav'))).length;
  expect(Math.abs(length - 25_000)).toBeLessThan(60);
});

describe('what is written', () => {
  const right = noise(-30, 1.3, 5);
  const write = async (format: 'pcm16' | 'pcm24' | 'float32', channels: Float32Array[]): Promise<string> => {
    const path = files.path(`${format}-${channels.length}.wav`);
    const encoder = new WavEncoder(loadKernels(), path, 44_100, channels.length, format, false);
    for (let at = 0, length = channels[0]!.length; at < length; at += 1001)
      await encoder.write({ channels: channels.map((x) => x.subarray(at, at + 1001)), frames: Math.min(1001, length - at) });
    await encoder.finish();
    return path;
  };

  test('float is the samples to the bit, 24 and 16 bits the nearest step, for ffmpeg too', async () => {
    const both = Float32Array.from({ length: 2 * left.length }, (_, i) => (i % 2 === 0 ? left : right)[i >> 1]!);
    expect(reference(await write('float32', [left, right]))).toEqual(both);
    const rounded = (top: number) => both.map((x) => Math.max(-top, Math.min(top - 1, Math.round(x * top))) / top + 0);
    expect(reference(await write('pcm24', [left, right]))).toEqual(rounded(2 ** 23));
    expect(reference(await write('pcm16', [left, right]))).toEqual(rounded(2 ** 15));
    const probe = execFileSync('ffprobe', ['-v', 'error', '-show_streams', files.path('pcm24-2.wav')], { encoding: 'utf8' });
    expect(probe).toMatch(/codec_name=pcm_s24le[^]*sample_rate=44100[^]*channels=2[^]*channel_layout=stereo/);
  });

  test('one channel of an odd number of bytes ends on an even one', async () => {
    const path = await write('pcm24', [left.subarray(0, 62_399)]);
    expect(readFileSync(path).length % 2).toBe(0);
    expect(reference(path).length).toBe(62_399);
  });

  test('beyond 4 GiB the header is that of an RF64: sizes in ds64 (EBU Tech 3306)', () => {
    const frames = 3_000_000_000;
    const header = wavHeader({ sampleRateHz: 48_000, channels: 2, format: 'pcm24', frames });
    expect(header.length).toBe(WAV_HEADER_BYTES);
    expect([header.toString('latin1', 0, 4), header.toString('latin1', 12, 16)]).toEqual(['RF64', 'ds64']);
    expect(header.readUInt32LE(4)).toBe(0xffffffff);
    expect(Number(header.readBigUInt64LE(28))).toBe(frames * 6);
    expect(Number(header.readBigUInt64LE(36))).toBe(frames);
    expect(header.readUInt32LE(WAV_HEADER_BYTES - 4)).toBe(0xffffffff);
  });
});
