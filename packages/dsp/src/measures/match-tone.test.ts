import { noise, RATE_HZ, kernels, run, voice, joined } from '../testing/signals.js';
import { thirdOctaves } from '../survey/spectrum-facts.js';
import { TrackListener } from '../survey/who-speaks.js';
import type { ToneBand } from '../treatments/tone/tone.js';
import { tone } from '../treatments/tone/tone.js';
import { matchTone, toneDifference, toneGainDb } from './match-tone.js';

const bell = (frequencyHz: number, gainDb: number, q: number): ToneBand => ({ shape: 'bell', frequencyHz, gainDb, q });
const toned = (sound: Float32Array, bands: readonly ToneBand[]): Float32Array =>
  run(tone.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, { bands } as never), [sound])[0]!;
function listened(sound: Float32Array) {
  const listener = new TrackListener(kernels, RATE_HZ, 1);
  for (let at = 0; at < sound.length; at += 4096) listener.process([sound.subarray(at, at + 4096)], Math.min(4096, sound.length - at));
  return listener.finish().tone!;
}

// IEC 61260-1:2014: base-ten bands, edges a factor 10^(±1/20) from the middle; white noise rises by 1 dB a band.
test('third octaves of white noise rise by 1 dB from band to band', () => {
  const power = new Float64Array(4097).fill(1);
  const levels = thirdOctaves(power, RATE_HZ / 8192).filter(({ hz }) => hz >= 200 && hz <= 10_000);
  for (const [i, { dbfs }] of levels.entries()) if (i > 0) expect(dbfs - levels[i - 1]!.dbfs).toBeCloseTo(1, 0);
  expect(levels.map(({ hz }) => hz).slice(0, 5)).toEqual([200, 250, 315, 400, 500]);
});

const curve = [bell(200, 4, 0.7), bell(1200, -5, 1), bell(5000, 3, 0.7)];
test.each([
  ['noise', noise(-20, 8, 3)],
  ['talk over a room', joined(voice(8, 120), voice(4, 180)).map((x, n) => x + 0.0005 * Math.sin(n * n))],
] as const)('a tone that was bent by known bands is brought back: %s', (_, sound) => {
  const own = listened(toned(sound, curve));
  const reference = listened(sound);
  const bands = matchTone(own, reference, RATE_HZ);
  for (const { gainDb } of bands) expect(Math.abs(gainDb)).toBeLessThanOrEqual(6);
  const before = toneDifference(own, reference);
  const left = before.map(({ hz, dbfs }) => dbfs - toneGainDb(bands, hz, RATE_HZ));
  const mean = left.reduce((sum, db) => sum + db, 0) / left.length;
  const rms = (values: readonly number[]): number => Math.sqrt(values.reduce((sum, db) => sum + db * db, 0) / values.length);
  expect(rms(before.map(({ dbfs }) => dbfs))).toBeGreaterThan(1.8);
  expect(rms(left.map((db) => db - mean))).toBeLessThan(0.8);
});

test('the same tone needs nothing; however loud it is', () => {
  const sound = noise(-20, 6, 5);
  expect(matchTone(listened(sound.map((x) => 0.1 * x)), listened(sound), RATE_HZ)).toEqual([]);
  expect(matchTone([], [], RATE_HZ)).toEqual([]);
});
