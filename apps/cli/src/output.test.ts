import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { CheckLine } from '@euphonos/engine';
import { joined, levelDb, mixed, noise, sine, voice } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';

const files = scratchFolder();
afterAll(files.remove);
const talk = voice(4);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const sound = mixed(
  joined(
    noise(-90, 0.5),
    talk.map((x) => full * x),
  ),
  mixed(noise(-58, 4.5, 5), sine(50, -36, 4.5)),
);
const IN = files.path('talk.wav');
const CHAIN = files.path('chain.json');
beforeAll(() => {
  writeFloatWav(IN, sound);
  writeFileSync(CHAIN, JSON.stringify({ treatments: [{ kind: 'high-pass', cutoffHz: 90, slopeDbPerOctave: 36 }] }));
});

interface Stream {
  readonly codec_name: string;
  readonly sample_rate: string;
  readonly bit_rate?: string;
}
const soundOf = (name: string): Stream =>
  (
    JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-select_streams', 'a:0', '-show_streams', files.path(name)], {
        encoding: 'utf8',
      }),
    ) as { streams: Stream[] }
  ).streams[0]!;
function samplesOf(name: string): Float32Array {
  ffmpeg('-i', files.path(name), '-map', '0:a:0', '-ar', '48000', '-ac', '1', '-f', 'f32le', files.path(`${name}.raw`));
  return new Float32Array(new Uint8Array(readFileSync(files.path(`${name}.raw`))).buffer);
}

test.each([
  ['a.flac', ['--bits', '16'], 'flac', 48_000],
  ['b.mp3', ['--bitrate', '128', '--rate', '44100'], 'mp3', 44_100],
  ['c.m4a', ['--bitrate', '96'], 'aac', 48_000],
  ['d.opus', [], 'opus', 48_000],
  ['e.ogg', [], 'vorbis', 48_000],
  ['f.aiff', ['--bits', '24'], 'pcm_s24be', 48_000],
  ['g.wav', ['--bits', '16', '--rate', '44100'], 'pcm_s16le', 44_100],
] as const)('%s: the ending names the format', (name, options, codec, rate) => {
  const { code, err } = cli('clean', IN, files.path(name), '--chain', CHAIN, '--loudness', '-18', ...options);
  expect([code, err]).toEqual([0, '']);
  expect(soundOf(name)).toMatchObject({ codec_name: codec, sample_rate: String(rate) });
  expect(Math.abs(ebur128(files.path(name)).integratedLufs + 18)).toBeLessThanOrEqual(0.101);
});

test('a target: level and file as it asks, the sheet of the finished file as JSON', () => {
  const target = {
    name: 'Own',
    integratedLufs: null,
    toleranceLu: 1,
    rmsDbfs: [-23, -18],
    ceilingDbtp: -3,
    samplePeakDbfs: -3,
    noiseFloorDbfs: -60,
    file: { format: 'mp3', bitrateKbps: 192, sampleRateHz: 44_100, channels: 1 },
  };
  writeFileSync(files.path('target.json'), JSON.stringify(target));
  const { code, out } = cli('clean', IN, files.path('t.mp3'), '--chain', CHAIN, '--target', files.path('target.json'));
  expect(code).toBe(0);
  const lines = JSON.parse(out) as CheckLine[];
  const rms = lines.find(({ title }) => title === 'RMS level')!;
  expect(rms).toMatchObject({ asked: '-23 … -18 dBFS', passed: true });
  expect(rms.after!).toBeCloseTo(-20.5, 0);
  // By the samples that ffmpeg decodes.
  expect(Math.abs(levelDb(samplesOf('t.mp3')) - rms.after!)).toBeLessThan(0.1);
  expect(lines.find(({ title }) => title === 'Sample rate')).toMatchObject({ after: 44_100, passed: true });
  // The noise between the words is at -58 dBFS: told, with what would mend it.
  expect(lines.find(({ title }) => title === 'Noise floor')).toMatchObject({ passed: false, mend: { by: 'noise-reduction' } });
});

test('a picture: its sound cleaned, itself the same bit for bit', () => {
  ffmpeg(
    ...[
      '-f',
      'lavfi',
      '-i',
      'testsrc=s=160x120:r=25:d=4.5',
      '-i',
      IN,
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-c:a',
      'aac',
      '-b:a',
      '256k',
    ],
    files.path('in.mp4'),
  );
  expect(cli('clean', files.path('in.mp4'), files.path('out.mp4'), '--chain', CHAIN)).toEqual({
    code: 0,
    out: '',
    err: expect.any(String),
  });
  const hash = (name: string): string =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', files.path(name), '-map', '0:v', '-c', 'copy', '-f', 'streamhash', '-'], {
      encoding: 'utf8',
    });
  expect(hash('out.mp4')).toBe(hash('in.mp4'));
  const [before, after] = [samplesOf('in.mp4'), samplesOf('out.mp4')];
  // The hum is gone.
  expect(levelDb(after, 2000, 20_000)).toBeLessThan(levelDb(before, 2000, 20_000) - 12);
  expect(existsSync(files.path('out.mp4.sound.wav'))).toBe(false);
  // Without treatment what comes out lies where it lay, to the sample: nothing but what coding loses is between them.
  writeFileSync(files.path('none.json'), JSON.stringify({ treatments: [] }));
  cli('clean', files.path('in.mp4'), files.path('same.mp4'), '--chain', files.path('none.json'));
  const same = samplesOf('same.mp4');
  const off = (shift: number): number =>
    levelDb(
      Float32Array.from(before, (x, n) => x - (same[n + shift] ?? 0)),
      40_000,
      200_000,
    );
  expect(off(0)).toBeLessThan(levelDb(before, 40_000, 200_000) - 20);
  expect(Math.min(off(-1), off(1))).toBeGreaterThan(off(0));
});

test('a broadcast WAV stays one, with its time', () => {
  ffmpeg(
    '-i',
    IN,
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    '-metadata',
    'originator=A recorder',
    '-metadata',
    'time_reference=172800000',
    files.path('bwf.wav'),
  );
  expect(cli('clean', files.path('bwf.wav'), files.path('bwf-out.wav'), '--chain', CHAIN)).toMatchObject({ code: 0 });
  const bytes = readFileSync(files.path('bwf-out.wav'));
  const at = bytes.indexOf('bext') + 8;
  expect(bytes.toString('latin1', at + 256, at + 266)).toBe('A recorder');
  expect(Number(bytes.readBigUInt64LE(at + 338))).toBe(172_800_000);
  expect(samplesOf('bwf-out.wav')).toHaveLength(sound.length);
});

test.each([
  [['x.txt'], '.wav, .aiff, .flac, .mp3, .m4a, .opus, .ogg, .mp4, .mov, .mkv, .webm; ".txt"'],
  [['x.mp3', '--bits', '16'], 'MP3 has no bits of a sample'],
  [['x.wav', '--bits', '20'], '--bits is 16, 24 or 32f; "20"'],
  [['x.flac', '--bits', '32f'], 'FLAC is written with 16 or 24 bits'],
  [['x.flac', '--bitrate', '128'], 'FLAC keeps every sample'],
  [['x.opus', '--rate', '44100'], 'Opus has rates of 48000 Hz'],
  [['x.mp4'], 'has no picture'],
] as const)('%j is refused in words', ([name, ...options], words) => {
  const { code, err } = cli('clean', IN, files.path(name), '--chain', CHAIN, ...options);
  expect(code).toBe(2);
  expect(err).toContain(words);
  expect(existsSync(files.path(name))).toBe(false);
});

test('pauses that are cut do not fit a picture', () => {
  writeFileSync(files.path('cut.json'), JSON.stringify({ treatments: [{ kind: 'pauses', way: 'close' }] }));
  const { code, err } = cli('clean', files.path('in.mp4'), files.path('cut.mp4'), '--chain', files.path('cut.json'));
  expect([code, err]).toEqual([2, expect.stringContaining('shorter than its picture')]);
});
