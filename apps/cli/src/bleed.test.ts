import { join } from 'node:path';
import { BleedListener, findBleed, parseChain, Chain } from '@euphonos/dsp';
import { kernels, levelDb, noise, RATE_HZ } from '../../../packages/dsp/src/testing/signals.js';
import { decoded } from './testing/decoded.js';

const demo = join(import.meta.dirname, '../../../demo');
const SECONDS = 30;

/** Who talks when: two people in turns, with a stretch in which both do. */
const TURNS = {
  a: [
    [0.8, 6],
    [11, 14.5],
    [17, 20],
    [26, 28.5],
  ],
  b: [
    [6.3, 10.8],
    [15, 19],
    [20.6, 25.5],
  ],
} as const;

/** A talker of the demo in their turns only, at -24 dBFS while they talk. */
function talker(name: string, turns: readonly (readonly [number, number])[]): Float32Array {
  const raw = decoded(join(demo, `${name}.flac`), 'anull');
  const out = new Float32Array(SECONDS * RATE_HZ);
  let at = Math.round(2.5 * RATE_HZ);
  for (const [from, to] of turns) {
    const length = Math.round((to - from) * RATE_HZ);
    for (let n = 0; n < length; n++) {
      const fade = Math.min(1, n / 960, (length - n) / 960);
      out[Math.round(from * RATE_HZ) + n] = fade * raw[(at + n) % raw.length]!;
    }
    at += length;
  }
  const gain = 10 ** ((-24 - levelDb(out)) / 20);
  return out.map((x) => x * gain);
}

/** Through the air of a room: later, duller, with three echoes, 20 dB softer. */
function across(voice: Float32Array, delayMs: number, bleedDb: number): Float32Array {
  const out = new Float32Array(voice.length);
  for (const [ms, gain] of [
    [0, 1],
    [7.3, -0.4],
    [16.1, 0.3],
    [31.7, -0.2],
  ] as const) {
    const delay = Math.round(((delayMs + ms) / 1000) * RATE_HZ);
    for (let n = delay; n < out.length; n++) out[n]! += gain * voice[n - delay]!;
  }
  let low = 0;
  const dull = out.map((x) => (low += 0.5 * (x - low)));
  const gain = 10 ** ((bleedDb + levelDb(voice) - levelDb(dull)) / 20);
  return dull.map((x) => x * gain);
}

interface Scene {
  readonly own: Float32Array;
  readonly bleed: Float32Array;
  readonly mic: Float32Array;
  /** Gain a frame that the treatment gives. */
  readonly gain: Float32Array;
}

function scene(first: string, second: string, bleedDb: number, floorDb: number): readonly [Scene, Scene] {
  const [a, b] = [talker(first, TURNS.a), talker(second, TURNS.b)];
  const mics = [
    { own: a, bleed: across(b, 3.1, bleedDb), floor: noise(floorDb, SECONDS, 21) },
    { own: b, bleed: across(a, 2.7, bleedDb), floor: noise(floorDb + 4, SECONDS, 22) },
  ].map(({ own, bleed, floor }) => ({ own, bleed, mic: own.map((x, n) => x + bleed[n]! + floor[n]!) }));
  const listeners = mics.map(({ mic }) => {
    const listener = new BleedListener(kernels, RATE_HZ);
    for (let at = 0; at < mic.length; at += 4096) listener.process(mic.subarray(at, at + 4096), Math.min(4096, mic.length - at));
    return listener;
  });
  return findBleed(listeners).map((spans, i) => {
    const chain = parseChain({ treatments: [{ kind: 'bleed', bleed: spans.map((span) => ({ ...span, state: 'treat' })) }] });
    const run = new Chain({ sampleRateHz: RATE_HZ, channels: 1, kernels }, chain);
    const gain = new Float32Array(SECONDS * RATE_HZ).fill(1);
    for (let at = 0; at < gain.length; at += 4096)
      run.process([gain.subarray(at, at + 4096)], [gain.subarray(at, at + 4096)], Math.min(4096, gain.length - at));
    return { ...mics[i]!, gain };
  }) as unknown as readonly [Scene, Scene];
}

const STEP = 480;
/** Softer than this are gaps within a phrase. */
const WORD_DBFS = -36;
const steps = (sound: Float32Array): number[] =>
  Array.from({ length: Math.floor(sound.length / STEP) }, (_, i) => levelDb(sound, i * STEP, (i + 1) * STEP));

/** Bleed while its owner is silent, before and after; and words of the owner that are touched for more than 10 ms. */
function judged({ own, bleed, gain }: Scene) {
  const [mine, theirs] = [steps(own), steps(bleed)];
  const silent = (i: number): boolean => mine[i]! < -70;
  let [before, after] = [0, 0];
  theirs.forEach((_, i) => {
    if (!silent(i)) return;
    for (let n = i * STEP; n < (i + 1) * STEP; n++) {
      before += bleed[n]! ** 2;
      after += (gain[n]! * bleed[n]!) ** 2;
    }
  });
  let words = 0;
  let lost = 0;
  for (let i = 0; i < mine.length; i++) {
    if (mine[i]! < WORD_DBFS) continue;
    const from = i;
    // A word: 20 ms below that end it.
    while (i < mine.length && (mine[i]! >= WORD_DBFS || mine[i + 1]! >= WORD_DBFS)) i++;
    words++;
    let touched = 0;
    for (let n = from * STEP; n < i * STEP; n++) if (gain[n]! < 10 ** (-3 / 20)) touched++;
    if (touched > 0.01 * RATE_HZ) lost++;
  }
  return { loweredDb: 10 * Math.log10(before / after), words, lost };
}

// People and rooms that nothing was tuned on; bleed at -20 dB over a floor that is heard.
test('bleed is lowered by 12 dB and more, and 1 % of the words at most lose more than 10 ms', () => {
  const both = [...scene('guide', 'miller', -20, -66), ...scene('boatwright', 'narrator', -20, -60)].map(judged);
  for (const { loweredDb } of both) expect(loweredDb).toBeGreaterThan(12);
  const [words, lost] = [both.reduce((sum, one) => sum + one.words, 0), both.reduce((sum, one) => sum + one.lost, 0)];
  expect(words).toBeGreaterThan(50);
  expect(lost).toBeLessThanOrEqual(0.01 * words);
});
