import { execFileSync } from 'node:child_process';
import { copyFileSync, truncateSync, writeFileSync } from 'node:fs';
import { SoundMeasure } from '@euphonos/dsp';
import { joined, kernels, noise, sine } from '../../dsp/src/testing/signals.js';
import { decodeSound, newReport, readingNotes, type DecodeReport } from './decode.js';
import { MediaError } from './errors.js';
import { probeSound } from './probe.js';
import { measureSound } from './render.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const tone = sine(997, -6, 1);

async function read(path: string, options: { sampleRateHz?: number; channels?: number[] } = {}) {
  const facts = await probeSound(path);
  const report: DecodeReport = newReport();
  const parts: Float32Array[][] = [];
  for await (const { channels, frames } of decodeSound(path, facts, options, report))
    parts.push(channels.map((samples) => samples.slice(0, frames)));
  const width = parts[0]!.length;
  return { facts, report, channels: Array.from({ length: width }, (_, c) => joined(...parts.map((part) => part[c]!))) };
}
const codeOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'no error',
    (error: unknown) => (error instanceof MediaError ? error.code : String(error)),
  );

test('float samples come back to the bit, channel by channel', async () => {
  const left = noise(-20, 0.5, 1);
  const right = noise(-20, 0.5, 2);
  writeFloatWav(
    files.path('two.wav'),
    Float32Array.from({ length: left.length * 2 }, (_, i) => (i % 2 ? right : left)[i >> 1]!),
    { channels: 2 },
  );
  const { channels, facts } = await read(files.path('two.wav'));
  expect(channels).toEqual([left, right]);
  expect(facts).toMatchObject({ codec: 'pcm_f32le', sampleRateHz: 48000, channels: 2 });
  expect((await read(files.path('two.wav'), { channels: [1] })).channels).toEqual([right]);
});

// Every container and coding that is promised; lossless ones within their last bit, lossy ones by level and length.
test.each([
  ['u8.wav', ['-c:a', 'pcm_u8'], 2 ** -7],
  ['s16.wav', ['-c:a', 'pcm_s16le'], 2 ** -15],
  ['s24.wav', ['-c:a', 'pcm_s24le'], 2 ** -23],
  ['s32.wav', ['-c:a', 'pcm_s32le'], 2 ** -24],
  ['f64.wav', ['-c:a', 'pcm_f64le'], 0],
  ['rf64.wav', ['-c:a', 'pcm_s24le', '-rf64', 'always'], 2 ** -23],
  ['bwf.wav', ['-c:a', 'pcm_s24le', '-write_bext', '1', '-metadata', 'description=take'], 2 ** -23],
  ['s24.aiff', ['-c:a', 'pcm_s24be'], 2 ** -23],
  ['s16.flac', ['-c:a', 'flac', '-sample_fmt', 's16'], 2 ** -15],
  ['alac.m4a', ['-c:a', 'alac'], 2 ** -15],
  ['pcm.mov', ['-c:a', 'pcm_s24le'], 2 ** -23],
  ['flac.mkv', ['-c:a', 'flac'], 2 ** -15],
  ['lossy.mp3', ['-c:a', 'libmp3lame', '-b:a', '192k'], null],
  ['lossy.m4a', ['-c:a', 'aac', '-b:a', '160k'], null],
  ['lossy.mp4', ['-c:a', 'aac'], null],
  ['lossy.ogg', ['-c:a', 'libvorbis'], null],
  ['lossy.opus', ['-c:a', 'libopus'], null],
  ['lossy.webm', ['-c:a', 'libopus'], null],
] as const)('%s is read', async (name, coding, tolerance) => {
  writeFloatWav(files.path('tone.wav'), tone);
  ffmpeg('-i', files.path('tone.wav'), ...coding, files.path(name));
  const { channels, report } = await read(files.path(name));
  const [samples] = channels;
  expect(Math.abs(samples!.length - tone.length)).toBeLessThanOrEqual(tolerance === null ? 2400 : 0);
  if (tolerance === null) {
    const rms = Math.sqrt(samples!.subarray(12000, 36000).reduce((sum, x) => sum + x * x, 0) / 24000);
    expect(20 * Math.log10(rms)).toBeCloseTo(-9.03, 0);
  } else expect(Math.max(...samples!.map((x, n) => Math.abs(x - tone[n]!)))).toBeLessThanOrEqual(tolerance * 1.01);
  expect(report.brokenSamples).toBe(0);
});

test('length, rate and channels are those that ffprobe states', async () => {
  ffmpeg('-i', files.path('tone.wav'), '-ar', '44100', '-ac', '2', files.path('probe.flac'));
  const stated = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', files.path('probe.flac')], { encoding: 'utf8' }),
  ).streams[0];
  const { facts, channels, report } = await read(files.path('probe.flac'));
  expect([facts.sampleRateHz, facts.channels, facts.codec]).toEqual([Number(stated.sample_rate), stated.channels, stated.codec_name]);
  expect(channels[0]!.length).toBe(Number(stated.duration_ts));
  expect(readingNotes(facts, report, facts.sampleRateHz)).toEqual([]);
});

// Reference: `ebur128` of Debian's ffmpeg, which knows the layout.
test.each(['5.1', '5.0', 'quad', '3.0'])('surround (%s) is measured with the weights of its channels', async (layout) => {
  const path = files.path(`surround ${layout}.wav`);
  ffmpeg(
    '-i',
    files.path('tone.wav'),
    '-filter_complex',
    `aloop=loop=5:size=48000,aformat=channel_layouts=mono,pan=${layout}|${channelNames[layout]!.map((name, i) => `${name}=${0.2 + 0.15 * i}*c0`).join('|')}`,
    '-c:a',
    'pcm_f32le',
    path,
  );
  const facts = await probeSound(path);
  const measure = new SoundMeasure(kernels, facts.sampleRateHz, facts.channels, facts.loudnessWeights);
  const figures = await measureSound(decodeSound(path, facts, {}, newReport()), measure);
  expect(Math.abs(figures.integratedLufs! - ebur128(path).integratedLufs)).toBeLessThanOrEqual(0.06);
});
const channelNames: Record<string, string[]> = {
  '5.1': ['FL', 'FR', 'FC', 'LFE', 'BL', 'BR'],
  '5.0': ['FL', 'FR', 'FC', 'BL', 'BR'],
  quad: ['FL', 'FR', 'BL', 'BR'],
  '3.0': ['FL', 'FR', 'FC'],
};

test('another rate is converted to, with the tone where it was', async () => {
  const { channels } = await read(files.path('tone.wav'), { sampleRateHz: 96000 });
  expect(Math.abs(channels[0]!.length - 96000)).toBeLessThanOrEqual(2);
  const expected = sine(997, -6, 1, 0, 96000);
  for (let n = 20000; n < 76000; n += 97) expect(channels[0]![n]).toBeCloseTo(expected[n]!, 4);
});

describe('bad files', () => {
  test('not there, empty, not sound', async () => {
    writeFileSync(files.path('empty.wav'), '');
    writeFileSync(files.path('letter.wav'), 'Dear engineer, this is not a sound. '.repeat(100));
    writeFileSync(files.path('list.m3u8'), '#EXTM3U\n#EXTINF:1,\n/etc/hostname\n');
    expect(await codeOf(probeSound(files.path('none.wav')))).toBe('file-missing');
    expect(await codeOf(probeSound(files.path('empty.wav')))).toBe('file-empty');
    expect(await codeOf(probeSound(files.path('letter.wav')))).toBe('not-audio');
    expect(await codeOf(probeSound(files.path('list.m3u8')))).toBe('not-audio');
  });

  test('a picture without sound is not audio', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'color=c=gray:s=16x16:d=0.2', files.path('mute.mkv'));
    expect(await codeOf(probeSound(files.path('mute.mkv')))).toBe('not-audio');
  });

  test('a rate that is not treated is named', async () => {
    writeFloatWav(files.path('slow.wav'), tone, { sampleRateHz: 4000 });
    await expect(probeSound(files.path('slow.wav'))).rejects.toMatchObject({ code: 'sample-rate', data: { sampleRateHz: 4000 } });
  });

  test.each([
    ['truncated.wav', 'tone.wav', 100_000],
    ['truncated.aiff', 's24.aiff', 60_000],
    ['truncated.flac', 'probe.flac', 20_000],
    ['truncated-rf64.wav', 'rf64.wav', 60_000],
  ])('%s: what is there is kept, and it says so', async (name, from, bytes) => {
    copyFileSync(files.path(from), files.path(name));
    truncateSync(files.path(name), bytes);
    const { facts, report, channels } = await read(files.path(name));
    expect(channels[0]!.length).toBeGreaterThan(4000);
    expect(channels[0]!.length).toBeLessThan(40_000);
    expect(readingNotes(facts, report, facts.sampleRateHz)).toEqual([expect.stringMatching(/truncated|damaged/)]);
  });

  test.each([[10 * 192_000], [2 ** 32 - 1], [2 ** 32 + 5]])(
    'a header that claims %i bytes does not make more of it',
    async (claimedBytes) => {
      writeFloatWav(files.path('lies.wav'), tone, { claimedBytes });
      const { channels, facts, report } = await read(files.path('lies.wav'));
      expect(channels[0]).toEqual(tone);
      const notes = readingNotes(facts, report, 48000);
      if (claimedBytes < 2 ** 31) expect(notes[0]).toMatch(/promises 10.0 s, 1.0 s are there/);
      else expect(notes).toEqual([]);
    },
  );

  test('samples that are not numbers become silence and are counted', async () => {
    const samples = Float32Array.from(tone);
    samples.set([NaN, Infinity, -Infinity], 100);
    writeFloatWav(files.path('nan.wav'), samples);
    const { channels, report, facts } = await read(files.path('nan.wav'));
    expect(Array.from(channels[0]!.subarray(100, 103))).toEqual([0, 0, 0]);
    expect(channels[0]!.subarray(103)).toEqual(tone.subarray(103));
    expect(readingNotes(facts, report, 48000)).toEqual([expect.stringContaining('3 samples were not numbers')]);
  });

  test('a channel that the file does not have is refused', async () => {
    expect(await codeOf(read(files.path('tone.wav'), { channels: [1] }))).toBe('channel-missing');
  });

  test.each([
    'a "quoted" name.wav',
    "it's.wav",
    'wave 🌊 ünïcode.wav',
    '-af.wav',
    'pipe:1.wav',
    'percent%d.wav',
    'new\nline.wav',
    `${'n'.repeat(240)}.wav`,
  ])('a file named %j is a file', async (name) => {
    writeFloatWav(files.path(name), tone.subarray(0, 4800));
    expect((await read(files.path(name))).channels[0]).toEqual(tone.subarray(0, 4800));
  });
});

test('a picture that lasts longer than its sound makes no truncated sound; one that was cut is told all the same', async () => {
  const source = [
    '-f',
    'lavfi',
    '-i',
    'sine=440:r=48000:d=1.5',
    '-f',
    'lavfi',
    '-i',
    'color=s=32x32:r=2:d=4',
    '-map',
    '0:a',
    '-map',
    '1:v',
  ];
  ffmpeg(...source, '-c:a', 'flac', '-c:v', 'mjpeg', files.path('longer.mkv'));
  const { facts, report } = await read(files.path('longer.mkv'));
  expect(readingNotes(facts, report, 48000)).toEqual([]);
  expect(facts.statedSeconds).toBeCloseTo(1.5, 2);
  ffmpeg('-f', 'lavfi', '-i', 'sine=440:r=48000:d=8', '-c:a', 'pcm_s16le', files.path('cut.mkv'));
  truncateSync(files.path('cut.mkv'), 400_000);
  const cut = await read(files.path('cut.mkv'));
  expect(readingNotes(cut.facts, cut.report, 48000)[0]).toContain('truncated: its header promises 8.0 s');
});
