import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, run, sine } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import type { TalkSpan } from './settings.js';
import { SpeechCurve } from './speech-curve.js';
import { underSpeech } from './under-speech.js';

const row = (startSeconds: number, endSeconds: number, lufs = -20, state: TalkSpan['state'] = 'treat'): TalkSpan => ({
  startSeconds,
  endSeconds,
  lufs,
  state,
});
const times = { depthDb: 12, attackMs: 200, aheadMs: 100, holdMs: 300, releaseMs: 500 };
const values = (talk: readonly TalkSpan[], more: object = {}) =>
  ({ ...(defaultValues(underSpeech) as object), ...times, talk, ...more }) as never;
const create = (talk: readonly TalkSpan[], more: object = {}, channels = 1) =>
  underSpeech.create({ sampleRateHz: RATE_HZ, channels, kernels }, values(talk, more));
const bed = noise(-20, 5, 4);
const lowered = (out: Float32Array, from: number, to: number, source = bed): number =>
  levelDb(source, Math.round(from * RATE_HZ), Math.round(to * RATE_HZ)) -
  levelDb(out, Math.round(from * RATE_HZ), Math.round(to * RATE_HZ));

describe('conformance', () => conformance(() => create([row(0.1, 0.15)], { attackMs: 30, holdMs: 20, releaseMs: 80 }, 2)));
describe('conformance, the voice’s bands', () =>
  conformance(() => create([row(0.1, 0.15)], { attackMs: 30, holdMs: 20, releaseMs: 80, band: 'voice' }, 2)));

test('down by the depth from before the first word to after the last; elsewhere the same to the bit', () => {
  const out = run(create([row(2, 3)]), [bed])[0]!;
  expect(lowered(out, 1.9, 3.3)).toBeCloseTo(12, 3);
  for (const [from, to] of [
    [0, 1.7],
    [3.8, 5],
  ] as const)
    for (let n = from * RATE_HZ; n < to * RATE_HZ; n++) if (out[n] !== bed[n]) throw new Error(`frame ${n} was touched`);
});

test('half way down in the middle of the way down, half way back in the middle of the way back', () => {
  const out = run(create([row(2, 3)]), [bed])[0]!;
  expect(lowered(out, 1.795, 1.805)).toBeCloseTo(6, 0);
  expect(lowered(out, 3.545, 3.555)).toBeCloseTo(6, 0);
});

test('between the words of a phrase it does not move; what is said too softly or is left lowers nothing', () => {
  const out = run(create([row(1, 1.5), row(1.9, 2.4), row(4, 4.3, -60), row(4.4, 4.5, -20, 'leave')]), [bed])[0]!;
  for (let at = 1; at < 2.6; at += 0.1) expect(lowered(out, at, at + 0.1)).toBeCloseTo(12, 3);
  expect(lowered(out, 3.8, 5)).toBe(0);
});

test('called down again while it comes back, it goes down from where it is', () => {
  const curve = new SpeechCurve([row(1, 2), row(3.2, 4)], RATE_HZ, {
    aheadFrames: 4800,
    attackFrames: 9600,
    holdFrames: 14_400,
    releaseFrames: 96_000,
  });
  let before = curve.at(0);
  let jump = 0;
  for (let frame = 1; frame < 7 * RATE_HZ; frame++) {
    const now = curve.at(frame);
    jump = Math.max(jump, Math.abs(now - before));
    before = now;
  }
  // Never faster than the way down is steep: π/2 over its length.
  expect(jump).toBeLessThanOrEqual(Math.PI / 2 / 9600 + 1e-9);
  expect(curve.at(3.1 * RATE_HZ)).toBe(1);
  expect(curve.at(2.9 * RATE_HZ)).toBeLessThan(0.95);
});

test('the voice’s bands alone: the depth in the middle of them, bass and air stay', () => {
  const at = (hz: number): number => {
    const tone = sine(hz, -20, 5);
    const out = run(create([row(1, 4)], { band: 'voice' }), [tone])[0]!;
    return lowered(out, 1.5, 3.5, tone);
  };
  for (const hz of [700, 1000, 1500]) expect(at(hz)).toBeCloseTo(12, 0);
  expect(at(160)).toBeCloseTo(6, 0);
  expect(at(40)).toBeLessThan(1);
  expect(at(16_000)).toBeLessThan(1.6);
});

test('moving the depth needs no new processor, moving a time does', () => {
  const made = create([row(1, 2)]);
  expect(made.setParameters(values([row(1, 2)], { depthDb: 20 }))).toBe(true);
  expect(made.setParameters(values([row(1, 2)], { holdMs: 10 }))).toBe(false);
});

test.each(['all', 'voice'])('a depth that is moved while it is down goes there within 50 ms, without a click: %s', (band) => {
  const made = create([row(0.5, 4.5)], { band });
  const tone = sine(500, -20, 3);
  const out = tone.slice();
  const [moved, from] = [2 * RATE_HZ, 96_000];
  for (let at = 0; at < out.length; at += 128) {
    if (at === from) made.setParameters(values([row(0.5, 4.5)], { band, depthDb: 20 }));
    made.process([out.subarray(at, at + 128)], [out.subarray(at, at + 128)], Math.min(128, out.length - at));
  }
  // The largest step of the tone itself; a jump of 8 dB would be a tenfold of it.
  const step = (a: number, b: number): number => {
    let most = 0;
    for (let n = a; n < b; n++) most = Math.max(most, Math.abs(out[n]! - out[n - 1]!));
    return most;
  };
  expect(step(moved - 100, moved + 4000)).toBeLessThan(1.05 * step(moved - 2000, moved - 100));
  const down = (at: number): number => levelDb(tone, at, at + 960) - levelDb(out, at, at + 960);
  expect(down(moved - 4000)).toBeCloseTo(12, 0);
  expect(down(moved + 2400)).toBeCloseTo(20, 0);
});
