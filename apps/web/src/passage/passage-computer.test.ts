import { BUCKET_VALUES, COLUMN_FLOOR_DBFS, COLUMN_STEP_DB, parseChain, takeNoiseProfile, turned } from '@euphonos/dsp';
import { chainRun } from '@euphonos/engine';
import { joined, kernels, mixed, noise, RATE_HZ, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { PassageComputer, TILE_BUCKETS, TILE_COLUMNS, TILE_ROWS } from './passage-computer.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const word = (hz: number): Float32Array => sine(hz, -20, 2).map((x, n) => x * Math.sin((Math.PI * n) / 96_000));
const recording = mixed(joined(new Float32Array(96_000), word(300), word(1000), word(200), new Float32Array(48_000)), noise(-50, 9, 2));
const profile = takeNoiseProfile(kernels, [recording.subarray(0, 90_000)], RATE_HZ);
const spec = parseChain({
  treatments: [{ kind: 'high-pass', cutoffHz: 120 }, { kind: 'noise-reduction', reductionDb: 15 }, { kind: 'gate' }],
});
const source = { ...oneRecording(recording.length), sampleRateHz: RATE_HZ };

/** Answers ranges of the recording's samples, as the server does. */
beforeAll(() => {
  globalThis.fetch = jest.fn(async (_url: unknown, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => recording.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});

const [compared] = turned({ sampleRateHz: RATE_HZ, channels: 1, kernels }, spec, [recording]) as [Float32Array];
const offline = ((): Float32Array => {
  const parts: Float32Array[] = [];
  const run = chainRun({ sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile: profile }, spec, (out, _, frames) =>
    parts.push(out[0]!.slice(0, frames)),
  );
  run.push([recording], recording.length);
  run.finish();
  return joined(...parts);
})();

function computer(): PassageComputer {
  const made = new PassageComputer(source, kernels);
  made.setChain(spec, profile);
  return made;
}
/** Least, greatest and mean square as they should be. */
function bucketsOf(samples: Float32Array, level: number, index: number): Float32Array {
  const frames = 2 ** level;
  return Float32Array.from({ length: TILE_BUCKETS * BUCKET_VALUES }, (_, i) => {
    const from = (index * TILE_BUCKETS + Math.floor(i / BUCKET_VALUES)) * frames;
    const part = Array.from({ length: frames }, (_, n) => samples[from + n] ?? 0);
    return i % 3 === 0 ? Math.min(...part) : i % 3 === 1 ? Math.max(...part) : part.reduce((sum, x) => sum + x * x, 0) / frames;
  });
}
const difference = (a: Float32Array, b: Float32Array): number => a.reduce((most, x, i) => Math.max(most, Math.abs(x - b[i]!)), 0);

test('waves of source, result and removed are those of the recording and of the render', async () => {
  const made = computer();
  for (const index of [0, 1, 2, 3]) {
    expect(difference(await made.waveTile('source', 8, index), bucketsOf(recording, 8, index))).toBeLessThan(1e-7);
    expect(difference(await made.waveTile('result', 8, index), bucketsOf(offline, 8, index))).toBeLessThan(1e-6);
    expect(
      difference(
        await made.waveTile('removed', 8, index),
        bucketsOf(
          compared.map((x, n) => x - offline[n]!),
          8,
          index,
        ),
      ),
    ).toBeLessThan(1e-6);
  }
});

test('a piece from the middle, with no piece before it, agrees with the render to less than what is seen', async () => {
  const alone = await computer().waveTile('result', 8, 2);
  // A five-hundredth of full scale: half a pixel of a strip. A profile that follows remembers more than a picture lets it hear.
  expect(difference(alone, bucketsOf(offline, 8, 2))).toBeLessThan(2e-3);
});

test('a new chain makes everything treated anew', async () => {
  const made = computer();
  const before = await made.waveTile('result', 8, 1);
  made.setChain({ treatments: [] }, undefined);
  expect(difference(await made.waveTile('result', 8, 1), bucketsOf(recording, 8, 1))).toBeLessThan(1e-7);
  expect(difference(before, await made.waveTile('result', 8, 1))).toBeGreaterThan(0.001);
});

test('a spectrogram shows the tone at its time and not before', async () => {
  const made = computer();
  // 2^10 frames a column: the first tile holds 0 … 2.7 s; the word of 300 Hz starts at 2 s.
  const tile = await made.spectrogramTile('source', 'linear', 10, 0);
  const row = TILE_ROWS - 1 - Math.floor((300 / (RATE_HZ / 2)) * TILE_ROWS);
  const db = (column: number): number => tile[column * TILE_ROWS + row]! * COLUMN_STEP_DB + COLUMN_FLOOR_DBFS;
  expect(db(40)).toBeLessThan(-55);
  expect(db(TILE_COLUMNS - 2)).toBeGreaterThan(-30);
});

test('where a clip has a chain of its own, the result shows it, the source does not', async () => {
  const made = computer();
  made.setChain({ treatments: [] }, undefined, [
    {
      source: { startFrame: 96_000, endFrame: 192_000 },
      chain: parseChain({ treatments: [{ kind: 'high-pass', cutoffHz: 500, slopeDbPerOctave: 48 }] }),
    },
  ]);
  const loudest = (tile: Float32Array): number => tile.reduce((most, x, i) => (i % 3 === 1 ? Math.max(most, x) : most), 0);
  // 2^8 frames a bucket: the second tile holds 2.7 to 5.5 s; the word of 300 Hz is from 2 to 4 s.
  expect(loudest((await made.waveTile('result', 8, 1)).subarray(0, 3 * 200))).toBeLessThan(
    0.3 * loudest((await made.waveTile('source', 8, 1)).subarray(0, 3 * 200)),
  );
});
