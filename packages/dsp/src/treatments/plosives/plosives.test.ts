import type { TreatmentEvent } from '../../processor.js';
import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sine, toneDb, voice } from '../../testing/signals.js';
import { plosives } from './plosives.js';

const settings = { limitHz: 140, reductionDb: 24, sensitivityDb: 8 };
const create = (over: object = {}, channels = 1, onEvent?: (event: TreatmentEvent) => void) =>
  plosives.create({ sampleRateHz: RATE_HZ, channels, kernels, onEvent }, { ...settings, ...over });
const clean = mixed(voice(6, 150), noise(-66, 6, 2));
/** 90 ms at 50 Hz that rise in 5 ms: air, below any voice. */
const burst = (at: number): Float32Array =>
  Float32Array.from({ length: clean.length }, (_, n) => {
    const t = (n - at) / RATE_HZ;
    return t < 0 || t > 0.09 ? 0 : 0.35 * Math.min(1, t / 0.005) * Math.exp(-25 * t) * Math.sin(2 * Math.PI * 50 * t);
  });
const places = [96_000, 170_000, 240_000];
const heard = places.reduce((sum, at) => mixed(sum, burst(at)), clean);

describe('conformance', () => conformance(() => create({}, 2)));

test('bursts are lowered by 12 dB and more, and talk elsewhere changes by less than 0.1 dB', () => {
  const events: TreatmentEvent[] = [];
  const out = run(
    create({}, 1, (event) => events.push(event)),
    [heard],
  )[0]!;
  expect(events.length).toBe(places.length);
  const rest = out.map((x, n) => x - clean[n]!);
  const put = heard.map((x, n) => x - clean[n]!);
  for (const at of places) expect(toneDb(put, 50, at, at + 4320) - toneDb(rest, 50, at, at + 4320)).toBeGreaterThan(12);
  expect(Math.abs(levelDb(out, 10_000, 90_000) - levelDb(heard, 10_000, 90_000))).toBeLessThan(0.1);
});

test('what lies above the limit is kept while a burst is lowered', () => {
  const tone = sine(1000, -30, 6);
  const out = run(create(), [mixed(heard, tone)])[0]!;
  expect(toneDb(out, 1000, places[1]!, places[1]! + 4800)).toBeCloseTo(toneDb(mixed(heard, tone), 1000, places[1]!, places[1]! + 4800), 0);
});

test('steady rumble, a low voice and a voice without bursts are left alone', () => {
  for (const sound of [sine(60, -20, 4), mixed(voice(5, 85), noise(-60, 5, 4)), clean]) {
    const events: TreatmentEvent[] = [];
    run(
      create({}, 1, (event) => events.push(event)),
      [sound],
    );
    expect(events).toEqual([]);
  }
});
