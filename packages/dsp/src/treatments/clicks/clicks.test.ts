import type { TreatmentEvent } from '../../processor.js';
import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sdrDb, voice } from '../../testing/signals.js';
import { clicks } from './clicks.js';

const settings = { sensitivity: 50, longestMs: 4, exceptions: [] as object[] };
const create = (over: object = {}, channels = 1, onEvent?: (event: TreatmentEvent) => void) =>
  clicks.create({ sampleRateHz: RATE_HZ, channels, kernels, onEvent }, { ...settings, ...over });
const clean = mixed(voice(4, 110), noise(-70, 4, 9));
/** Ticks of 0.1 to 1 ms. */
const places = [31_000, 52_500, 77_700, 101_300, 140_000, 163_210];
const damaged = ((): Float32Array => {
  const heard = Float32Array.from(clean);
  places.forEach((at, i) => {
    const length = 5 + 9 * i;
    for (let n = 0; n < length; n++) heard[at + n]! += 0.25 * Math.exp((-3 * n) / length) * Math.cos(0.45 * n);
  });
  return heard;
})();
const treated = (over: object = {}) => {
  const events: TreatmentEvent[] = [];
  return {
    out: run(
      create(over, 1, (event) => events.push(event)),
      [damaged],
    )[0]!,
    events,
  };
};

describe('conformance', () => conformance(() => create({}, 2)));

test('finds every tick where it is, hardly anything else, and comes 20 dB closer to the clean sound there', () => {
  const { out, events } = treated();
  // The pulses of this voice are bare impulses: the first of a syllable may pass for a tick.
  expect(events.length).toBeLessThanOrEqual(places.length + 3);
  for (const at of places) expect(events.some(({ startFrame, endFrame }) => startFrame <= at + 3 && endFrame > at)).toBe(true);
  const better = places.map((at) => sdrDb(clean, out, at, at + 60) - sdrDb(clean, damaged, at, at + 60));
  expect(better.reduce((sum, db) => sum + db, 0) / places.length).toBeGreaterThan(20);
});

test('a mouth click that rings for 7 ms is taken out where it rings: 12 dB closer, and the hiss above it stays', () => {
  const hiss = noise(-52, 4, 17);
  const high = hiss.map((x, n) => x - 2 * (hiss[n - 1] ?? 0) + (hiss[n - 2] ?? 0));
  const talk = mixed(voice(4, 110), high);
  const heard = Float32Array.from(talk);
  const at = [40_000, 90_100, 150_500];
  for (const from of at)
    for (let n = 0; n < 336; n++) heard[from + n]! += 0.2 * Math.exp((-4 * n) / 336) * Math.cos((2 * Math.PI * 2600 * n) / RATE_HZ);
  const out = run(create({ longestMs: 10 }), [heard])[0]!;
  const better = at.map((from) => sdrDb(talk, out, from, from + 336) - sdrDb(talk, heard, from, from + 336));
  expect(Math.min(...better)).toBeGreaterThan(12);
  // Differences of neighbours hold hardly anything but what lies above 8 kHz.
  const upper = (x: Float32Array): Float32Array => x.map((_, n) => x[n]! - 3 * (x[n - 1] ?? 0) + 3 * (x[n - 2] ?? 0) - (x[n - 3] ?? 0));
  const [before, after] = [upper(talk), upper(out)];
  // Of a hiss, a twentieth of the cells stand out by chance; a filling made anew would come out under 0 dB.
  for (const from of at) expect(sdrDb(before, after, from + 100, from + 336)).toBeGreaterThan(8);
});

test('what is no click stays to the last bit of a float', () => {
  const { out, events } = treated();
  const touched = (n: number): boolean => events.some(({ startFrame, endFrame }) => n >= startFrame && n < endFrame);
  for (let n = 0; n < clean.length; n += 13) if (!touched(n)) expect(out[n]).toBe(damaged[n]);
});

test('an excepted one stays, a longer one than the limit stays, and at no sensitivity nothing is touched', () => {
  const { events } = treated({ exceptions: [{ atSeconds: places[1]! / RATE_HZ }] });
  expect(events.some(({ startFrame }) => Math.abs(startFrame - places[1]!) < 200)).toBe(false);
  expect(treated({ longestMs: 0.2 }).events.length).toBeLessThan(treated().events.length);
  expect(treated({ sensitivity: 0 }).events.length).toBeLessThanOrEqual(treated({ sensitivity: 80 }).events.length);
});

// A hissed consonant is noise: it has no sample that stands 10 dB out of its surroundings.
test('an s is no click', () => {
  const events: TreatmentEvent[] = [];
  const hiss = noise(-24, 2, 31).map((x, n) => x * Math.max(0, Math.sin(n / 9000)) ** 0.3);
  run(
    create({}, 1, (event) => events.push(event)),
    [mixed(hiss, noise(-70, 2, 8))],
  );
  expect(events).toEqual([]);
  expect(levelDb(hiss)).toBeGreaterThan(-30);
});

test('a click that rings for 6 ms is found in a room, and what lies below it in the voice stays', () => {
  const room = mixed(
    voice(4, 120).map((x) => x * 0.3),
    noise(-60, 4, 3),
  );
  const heard = Float32Array.from(room);
  const spots = [40_000, 90_500, 150_000];
  for (const at of spots) for (let n = 0; n < 288; n++) heard[at + n]! += 0.12 * Math.exp((-4 * n) / 288) * Math.cos(0.5 * n);
  const events: TreatmentEvent[] = [];
  const out = run(
    create({ longestMs: 10 }, 1, (event) => events.push(event)),
    [heard],
  )[0]!;
  for (const at of spots) {
    expect(events.some(({ startFrame, endFrame }) => startFrame < at + 288 && endFrame > at)).toBe(true);
    expect(sdrDb(room, out, at, at + 288) - sdrDb(room, heard, at, at + 288)).toBeGreaterThan(6);
  }
});
