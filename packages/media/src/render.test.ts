import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseChain, SoundMeasure } from '@euphonos/dsp';
import { joined, kernels, mixed, noise, silence, sine } from '../../dsp/src/testing/signals.js';
import { decodeSound, newReport } from './decode.js';
import type { SoundBlock } from './sound-block.js';
import { WavEncoder } from './encode.js';
import { asMediaError } from './errors.js';
import { probeSound } from './probe.js';
import { RawWriter } from './raw-file.js';
import { measureSound, renderSound, type RenderRequest } from './render.js';
import { ebur128, scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const DEMO = join(__dirname, '../../../demo/narrator.flac');
const word = (levelDbfs: number): Float32Array => mixed(sine(220, levelDbfs, 1), sine(1330, levelDbfs - 9, 1));
const speechLike = joined(word(-20), silence(0.5), word(-26), silence(0.5), word(-14), silence(0.5), word(-22));

async function* stream(samples: Float32Array): AsyncGenerator<SoundBlock> {
  for (let at = 0; at < samples.length; at += 10_007) {
    const part = samples.subarray(at, at + 10_007);
    yield { channels: [part], frames: part.length };
  }
}
const request = (samples: Float32Array, outPath: string, part: Partial<RenderRequest> = {}): RenderRequest => ({
  source: stream(samples),
  expectedFrames: samples.length,
  context: { sampleRateHz: 48000, channels: 1, kernels },
  chain: { treatments: [] },
  output: 'result',
  target: null,
  format: 'float32',
  outPath,
  report: true,
  ...part,
});
async function readBack(path: string): Promise<Float32Array> {
  const parts: Float32Array[] = [];
  for await (const { channels, frames } of decodeSound(path, await probeSound(path), {}, newReport()))
    parts.push(channels[0]!.slice(0, frames));
  return joined(...parts);
}

test('without treatment and target, what is written is what came in, to the bit', async () => {
  const { frames } = await renderSound(request(speechLike, files.path('same.wav')));
  expect(frames).toBe(speechLike.length);
  expect(await readBack(files.path('same.wav'))).toEqual(speechLike);
});

test('result and removed add up to the source, turned in phase as the chain turns it', async () => {
  const chain = parseChain({ treatments: [{ kind: 'high-pass', cutoffHz: 150 }, { kind: 'gate' }] });
  await renderSound(request(speechLike, files.path('result.wav'), { chain }));
  await renderSound(request(speechLike, files.path('removed.wav'), { chain, output: 'removed' }));
  await renderSound(request(speechLike, files.path('source.wav'), { chain, output: 'source' }));
  const source = await readBack(files.path('source.wav'));
  const sum = mixed(await readBack(files.path('result.wav')), await readBack(files.path('removed.wav')));
  expect(sum.length).toBe(speechLike.length);
  expect(sum.every((x, n) => Math.abs(x - source[n]!) < 1e-6)).toBe(true);
});

test.each([
  [-23, -1],
  [-16, -1],
  [-14, -3],
  [-13, -6],
])('to %d LUFS under %d dBTP: reached, as ffmpeg measures it too', async (integratedLufs, ceilingDbtp) => {
  const outPath = files.path(`level${integratedLufs}.wav`);
  const { after, work } = await renderSound(request(speechLike, outPath, { target: { integratedLufs, ceilingDbtp }, format: 'pcm24' }));
  expect(after!.truePeakDbtp!).toBeLessThanOrEqual(ceilingDbtp);
  expect(Math.abs(after!.integratedLufs! - integratedLufs)).toBeLessThan(0.15);
  const outside = ebur128(outPath);
  expect(Math.abs(outside.integratedLufs - integratedLufs)).toBeLessThanOrEqual(0.3);
  expect(outside.truePeakDbtp).toBeLessThanOrEqual(ceilingDbtp + 0.05);
  if (integratedLufs === -23) expect(work).toMatchObject({ limitedDb: 0, limitedSeconds: 0 });
  if (integratedLufs === -13) expect(work.limitedDb).toBeGreaterThan(1);
});

// Reference: `ebur128` of Debian's ffmpeg, an implementation of EBU R 128 that is not ours.
test('the demo measures as ffmpeg measures it, within 0.1 LU', async () => {
  const facts = await probeSound(DEMO);
  const figures = await measureSound(
    decodeSound(DEMO, facts, {}, newReport()),
    new SoundMeasure(kernels, facts.sampleRateHz, facts.channels),
  );
  const outside = ebur128(DEMO);
  expect(Math.abs(figures.integratedLufs! - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(figures.loudnessRangeLu! - outside.loudnessRangeLu)).toBeLessThanOrEqual(0.2);
  expect(Math.abs(figures.truePeakDbtp! - outside.truePeakDbtp)).toBeLessThanOrEqual(0.1);
});

test('silence is rendered as silence, whatever loudness is asked for', async () => {
  const { after, work } = await renderSound(
    request(silence(1), files.path('silent.wav'), { target: { integratedLufs: -16, ceilingDbtp: -1 } }),
  );
  expect(after!.integratedLufs).toBeNull();
  expect(work.gainDb).toBe(0);
  expect((await readBack(files.path('silent.wav'))).every((x) => x === 0)).toBe(true);
});

test('the file is a 24-bit WAV', async () => {
  await renderSound(request(noise(-30, 0.2), files.path('bits.wav'), { format: 'pcm24' }));
  const header = readFileSync(files.path('bits.wav'));
  const format = header.indexOf('fmt ');
  expect([header.toString('ascii', 0, 4), header.readUInt32LE(format + 12), header.readUInt16LE(format + 22)]).toEqual(['RIFF', 48000, 24]);
});

test('cancelled half-way: no file, nothing left beside it', async () => {
  const controller = new AbortController();
  const work = renderSound(
    request(speechLike, files.path('never.wav'), {
      target: { integratedLufs: -16, ceilingDbtp: -1 },
      signal: controller.signal,
      onProgress: (share) => share > 0.3 && controller.abort(),
    }),
  );
  await expect(work).rejects.toMatchObject({ code: 'cancelled' });
  expect(readdirSync(files.path('.')).filter((name) => name.startsWith('never'))).toEqual([]);
});

// /dev/full is a device of Linux that answers every write with "no space left".
test('a full disk is named as what it is, by the file writer and by the work file', async () => {
  const block = { channels: [noise(-20, 2)], frames: 96_000 };
  const encoder = new WavEncoder(kernels, '/dev/full', 48000, 1, 'pcm24');
  const write = async (): Promise<void> => {
    for (let i = 0; i < 5; i++) await encoder.write(block);
    await encoder.finish();
  };
  await expect(write()).rejects.toMatchObject({ code: 'disk-full' });
  const work = new RawWriter('/dev/full');
  expect(await work.write(block).catch((error: unknown) => asMediaError(error))).toMatchObject({
    code: 'disk-full',
    message: expect.stringContaining('everything else is safe'),
  });
  await work.finish();
});
