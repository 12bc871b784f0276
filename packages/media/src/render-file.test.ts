import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { requireFileSpec, type FileSpec } from '@euphonos/engine';
import { joined, kernels, levelDb, mixed, noise, silence, sine, voice } from '../../dsp/src/testing/signals.js';
import { movedTags, readBroadcast } from './broadcast.js';
import { leftOut, metadataFile } from './file-tags.js';
import { renderFile, type FileRequest } from './render-file.js';
import type { SoundBlock } from './sound-block.js';
import { statedStart } from './stated-start.js';
import { ebur128, ffmpeg, scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const RATE_HZ = 44_100;
// Words over a room's floor, with a length that fits no frame of any codec.
const talk = voice(3.723, 118, 11, RATE_HZ);
const full = 0.5 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const left = mixed(
  talk.map((x) => full * x),
  noise(-66, 3.723, 3, RATE_HZ),
);
const right = left.map((x, n) => 0.7 * x + 0.05 * (left[n - 40] ?? 0));

async function* stream(channels: readonly Float32Array[]): AsyncGenerator<SoundBlock> {
  for (let at = 0; at < channels[0]!.length; at += 10_007) {
    const parts = channels.map((samples) => samples.subarray(at, at + 10_007));
    yield { channels: parts, frames: parts[0]!.length };
  }
}
const target = { integratedLufs: -18, ceilingDbtp: -1.5 };
const request = (name: string, spec: Partial<FileSpec>, part: Partial<FileRequest> = {}, channels = [left, right]): FileRequest => ({
  source: stream(channels),
  expectedFrames: channels[0]!.length,
  context: { sampleRateHz: RATE_HZ, channels: channels.length, kernels },
  chain: { treatments: [] },
  output: 'result',
  target,
  file: requireFileSpec(spec),
  outPath: files.path(name),
  report: true,
  ...part,
});
interface Probe {
  readonly streams: {
    codec_type: string;
    codec_name: string;
    sample_rate: string;
    channels: number;
    bits_per_raw_sample?: string;
    tags?: Record<string, string>;
  }[];
  readonly format: { tags?: Record<string, string>; duration: string };
  readonly chapters: { start_time: string; end_time: string; tags: { title: string } }[];
}
const probe = (name: string): Probe =>
  JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', '-show_format', '-show_chapters', files.path(name)], {
      encoding: 'utf8',
    }),
  ) as Probe;
/** The first channel, by Debian's ffmpeg, at the session's rate. */
function decoded(name: string, rate = RATE_HZ): Float32Array {
  ffmpeg('-i', files.path(name), '-af', 'pan=mono|c0=c0', '-ar', String(rate), '-f', 'f32le', files.path(`${name}.raw`));
  return new Float32Array(new Uint8Array(readFileSync(files.path(`${name}.raw`))).buffer);
}
/** By how many samples what came out is late: where both fit best. */
function lagOf(out: Float32Array, of: Float32Array): number {
  let [best, at] = [-Infinity, 0];
  for (let lag = -12; lag <= 12; lag++) {
    let sum = 0;
    for (let n = 60_000; n < 90_000; n += 2) sum += of[n]! * out[n + lag]!;
    if (sum > best) [best, at] = [sum, lag];
  }
  return at;
}

const CASES: readonly (readonly [name: string, spec: Partial<FileSpec>, codec: string, lossless: number | null])[] = [
  ['a.wav', {}, 'pcm_s24le', 24],
  ['c.wav', { bits: '32f' }, 'pcm_f32le', 32],
  ['d.aiff', { format: 'aiff' }, 'pcm_s24be', 24],
  ['f.flac', { format: 'flac', bits: 16 }, 'flac', 16],
  ['g.mp3', { format: 'mp3', bitrateKbps: 192 }, 'mp3', null],
  ['h.mp3', { format: 'mp3', bitrateKbps: 128, variable: true }, 'mp3', null],
  ['i.m4a', { format: 'm4a', bitrateKbps: 160 }, 'aac', null],
  ['k.ogg', { format: 'ogg', bitrateKbps: 160 }, 'vorbis', null],
];
test.each(CASES)(
  '%s: as long as what went in, in time to the sample, at its level by an outside meter',
  async (name, spec, codec, lossless) => {
    const { after, facts, work, frames } = await renderFile(request(name, spec));
    expect(frames).toBe(left.length);
    const { streams } = probe(name);
    expect(streams[0]).toMatchObject({ codec_name: codec, sample_rate: String(RATE_HZ), channels: 2 });
    expect(facts).toMatchObject({ sampleRateHz: RATE_HZ, channels: 2, bits: lossless });
    const out = decoded(name);
    // MP4 says where its sound ends (an edit list, counted in samples); ffmpeg's decoder hands over the last block whole.
    if (codec === 'aac') expect(Math.round(Number(probe(name).format.duration) * RATE_HZ)).toBe(left.length);
    else expect(out).toHaveLength(left.length);
    expect(after!.durationSeconds).toBeCloseTo(left.length / RATE_HZ, 6);
    expect(lagOf(out, left)).toBe(0);
    const outside = ebur128(files.path(name));
    expect(Math.abs(outside.integratedLufs - target.integratedLufs)).toBeLessThanOrEqual(0.101);
    expect(Math.abs(after!.integratedLufs! - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
    expect(outside.truePeakDbtp).toBeLessThanOrEqual(target.ceilingDbtp + 0.1);
    if (!lossless) return;
    // Nothing but a gain where no peak had to be held.
    const gain = 10 ** (work.gainDb / 20);
    if (work.limitedDb === 0) expect(levelDb(out.map((x, n) => x - gain * left[n]!))).toBeLessThan(lossless === 16 ? -94 : -140);
  },
);

test('Opus has 48 kHz: the rate is changed, and nothing moves', async () => {
  const { frames, facts } = await renderFile(request('o.opus', { format: 'opus', bitrateKbps: 96 }));
  expect([frames, facts.sampleRateHz]).toEqual([Math.round((left.length * 48_000) / RATE_HZ), 48_000]);
  expect(lagOf(decoded('o.opus'), left)).toBe(0);
  expect(decoded('o.opus', 48_000)).toHaveLength(frames);
  expect(Math.abs(ebur128(files.path('o.opus')).integratedLufs + 18)).toBeLessThanOrEqual(0.101);
});

test('another rate and other channels: the level is that of the file', async () => {
  const tone = sine(997, -20, 4, 0, RATE_HZ);
  const { facts, frames } = await renderFile(request('r.wav', { sampleRateHz: 48_000, channels: 2 }, { target: null }, [tone]));
  expect([facts.sampleRateHz, facts.channels, frames]).toEqual([48_000, 2, 4 * 48_000]);
  const out = decoded('r.wav', 48_000);
  expect(levelDb(out, 4800, 180_000)).toBeCloseTo(-23.01, 1);
  // The same tone of that rate, sample by sample: nothing moved.
  const same = sine(997, -20, 4, 0, 48_000);
  expect(
    levelDb(
      out.map((x, n) => x - same[n]!),
      4800,
      180_000,
    ),
  ).toBeLessThan(-110);
  // 1 kHz at -20 dBFS in both channels is -20 LUFS (EBU Tech 3341); a mono sum of two is as loud as one of them in one.
  const both = await renderFile(request('s.wav', { channels: 2 }, {}, [tone]));
  expect(Math.abs(both.after!.integratedLufs! + 18)).toBeLessThan(0.1);
  const one = await renderFile(request('t.wav', { channels: 1 }, { target: null }));
  expect(one.facts.channels).toBe(1);
  expect(levelDb(decoded('t.wav').map((x, n) => x - 0.5 * (left[n]! + right[n]!)))).toBeLessThan(-138);
});

test('an RMS window is aimed at by the RMS level, also where peaks are held', async () => {
  const dense = joined(left, silence(0.5, RATE_HZ), left);
  const { after, work } = await renderFile(
    request('rms.wav', {}, { target: { integratedLufs: null, rmsDbfs: [-19, -17], ceilingDbtp: -3 } }, [dense]),
  );
  expect(work.limitedDb).toBeGreaterThan(1);
  expect(Math.abs(after!.rmsDbfs! + 18)).toBeLessThan(0.3);
  expect(after!.truePeakDbtp!).toBeLessThanOrEqual(-2.9);
});

test.each(['mp3', 'ogg', 'opus'] as const)('a peak that %s moves over the ceiling is brought under it', async (format) => {
  // Dense and held down hard: whatever a coder changes makes new peaks.
  const dense = noise(-14, 3, 8, RATE_HZ);
  const target = { integratedLufs: -11, ceilingDbtp: -4 };
  const { after } = await renderFile(request(`dense.${format}`, { format, bitrateKbps: 64 }, { target }, [dense]));
  expect(after!.truePeakDbtp!).toBeLessThanOrEqual(-3.9);
  expect(ebur128(files.path(`dense.${format}`)).truePeakDbtp).toBeLessThanOrEqual(-3.9);
});

describe('tags, chapters and a picture', () => {
  const extras = {
    tags: { title: 'Part 1; the mill = a start', artist: 'A narrator', album: 'The Tidemill Tour', date: '2026' },
    chapters: [
      { title: 'Arrival', startSeconds: 0, endSeconds: 1.5 },
      { title: 'The wheel #2', startSeconds: 1.5, endSeconds: 3.5 },
    ],
  };
  test.each(['mp3', 'm4a', 'flac', 'opus', 'wav'] as const)(
    '%s holds what it can',
    async (format) => {
      const name = `tagged.${format}`;
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=c=teal:s=64x64', '-frames:v', '1', files.path('cover.png')]);
      await renderFile(request(name, { format }, { extras: { ...extras, coverPath: files.path('cover.png') } }));
      const { format: told, streams, chapters } = probe(name);
      const tags = Object.fromEntries(
        Object.entries({ ...told.tags, ...streams[0]!.tags }).map(([key, value]) => [key.toLowerCase(), value]),
      );
      expect(tags).toMatchObject({ title: extras.tags.title, artist: 'A narrator' });
      const holdsPicture = ['mp3', 'm4a', 'flac'].includes(format);
      expect(streams.filter(({ codec_type }) => codec_type === 'video').length).toBe(holdsPicture ? 1 : 0);
      const holdsChapters = format !== 'wav';
      expect(chapters.map(({ start_time, tags: { title } }) => [Number(start_time), title])).toEqual(
        holdsChapters
          ? [
              [0, 'Arrival'],
              [1.5, 'The wheel #2'],
            ]
          : [],
      );
      expect(leftOut({ format }, { ...extras, coverPath: 'x' })).toHaveLength((holdsPicture ? 0 : 1) + (holdsChapters ? 0 : 1));
    },
    30_000,
  );

  test('signs that mean something to ffmpeg are escaped', () => {
    expect(metadataFile({ tags: { title: 'a=b;c#d\\e\nf' }, chapters: [] })).toBe(';FFMETADATA1\ntitle=a\\=b\\;c\\#d\\\\e\\\nf\n');
  });
});

// EBU Tech 3285 v2, 2.3: description of 256 bytes, originator of 32, its reference of 32, date of 10, time of 8, reference of 8.
test('what a broadcast WAV says of itself goes along, its time moved with the sound and the rate', async () => {
  const said = { description: 'take 4', originator: 'A recorder', origination_date: '2026-11-29', time_reference: String(3600 * 48_000) };
  await renderFile(request('first.wav', {}, { extras: { broadcast: said } }, [left]));
  const first = (await readBroadcast(files.path('first.wav')))!;
  expect(first).toMatchObject({ tags: said, sampleRateHz: RATE_HZ });
  const moved = movedTags(first.tags, 24_000, 48_000, 44_100);
  await renderFile(request('moved.wav', { bits: 16 }, { extras: { broadcast: moved, tags: { title: 'Take' } } }, [left]));
  const bytes = readFileSync(files.path('moved.wav'));
  const at = bytes.indexOf('bext') + 8;
  expect(bytes.toString('latin1', at, at + 6)).toBe('take 4');
  expect(bytes.toString('latin1', at + 256, at + 266)).toBe('A recorder');
  expect(Number(bytes.readBigUInt64LE(at + 338))).toBe(3600.5 * 44_100);
  expect(await statedStart(files.path('moved.wav'))).toBeCloseTo(3600.5, 6);
  expect(await readBroadcast(files.path('a.wav'))).toBeNull();
});

// Vorbis holds no bit rate above 48 kHz, and less of it in one channel.
test('what a format does not take is written as the most that it does', async () => {
  const high = sine(997, -20, 1, 0, 96_000);
  const { facts } = await renderFile(
    request('high.ogg', { format: 'ogg', bitrateKbps: 320 }, { target: null, context: { sampleRateHz: 96_000, channels: 1, kernels } }, [
      high,
    ]),
  );
  expect(facts).toMatchObject({ sampleRateHz: 48_000, channels: 1 });
  for (const rate of [8000, 22_050, 32_000])
    await renderFile(request(`low${rate}.ogg`, { format: 'ogg', bitrateKbps: 320, sampleRateHz: rate }, { target: null }, [left]));
  expect(probe('low8000.ogg').streams[0]).toMatchObject({ codec_name: 'vorbis', sample_rate: '8000' });
});

test('samples stay under the highest one that is asked for', async () => {
  const { after } = await renderFile(request('peak.wav', {}, { target: { integratedLufs: -14, ceilingDbtp: -1, samplePeakDbfs: -4 } }));
  expect(after!.samplePeakDbfs!).toBeLessThanOrEqual(-4);
  expect(after!.integratedLufs!).toBeCloseTo(-14, 0);
});

test.each(['wav', 'm4a', 'opus'] as const)('the same sound makes the same %s, byte for byte', async (format) => {
  const bytes = [];
  for (const run of [1, 2]) {
    await renderFile(request(`same${run}.${format}`, { format }, { extras: { tags: { title: 'Same' } } }, [left]));
    bytes.push(readFileSync(files.path(`same${run}.${format}`)));
  }
  expect(bytes[0]!.equals(bytes[1]!)).toBe(true);
});

test('what cannot be written, or is cancelled, is told and leaves nothing behind', async () => {
  const before = readdirSync(files.path('.')).length;
  await expect(renderFile(request('no/such/folder.mp3', { format: 'mp3' }))).rejects.toThrow();
  await expect(
    renderFile(request('gone.flac', { format: 'flac' }, { extras: { coverPath: files.path('no picture.png') } })),
  ).rejects.toMatchObject({
    code: 'encode-failed',
  });
  const stop = new AbortController();
  stop.abort();
  await expect(renderFile(request('stopped.mp3', { format: 'mp3' }, { signal: stop.signal }))).rejects.toMatchObject({ code: 'cancelled' });
  expect(readdirSync(join(files.path('.'))).length).toBe(before);
});
