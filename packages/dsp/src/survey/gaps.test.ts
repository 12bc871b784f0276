import { kernels, levelDb, mixed, noise, randomNumbers, RATE_HZ, voice } from '../testing/signals.js';
import type { Finding } from './findings.js';
import { Surveyor } from './surveyor.js';

const SECONDS = 20;
const talk = voice(SECONDS, 125, 21);

/** Where a pause of 0.45 s and more ends: frames at which something before words can stand. */
const pauses = ((): number[] => {
  const ends: number[] = [];
  let quietFrom = 0;
  for (let at = 0; at + 480 <= talk.length; at += 480) {
    if (levelDb(talk, at, at + 480) < -62) continue;
    if (at - quietFrom > 0.34 * RATE_HZ && at > RATE_HZ) ends.push(at);
    quietFrom = at + 480;
  }
  return ends;
})();

/** Noise between two frequencies (first-order edges), swelling and falling, that ends `beforeMs` before each pause does. */
function before(ms: number, beforeMs: number, low: number, high: number, level: number): { sound: Float32Array; places: number[] } {
  const next = randomNumbers(7);
  const sound = new Float32Array(talk.length);
  const length = Math.round((ms / 1000) * RATE_HZ);
  const places = pauses.map((end) => end - Math.round((beforeMs / 1000) * RATE_HZ) - length);
  for (const start of places) {
    let a = 0;
    let b = 0;
    let c = 0;
    for (let n = 0; n < length; n++) {
      const x = next();
      a += (1 - Math.exp((-2 * Math.PI * high) / RATE_HZ)) * (x - a);
      b += (1 - Math.exp((-2 * Math.PI * low) / RATE_HZ)) * (a - b);
      c += (1 - Math.exp((-2 * Math.PI * low) / RATE_HZ)) * (a - b - c);
      sound[start + n] = level * (a - b - c) * Math.sin((Math.PI * n) / length) ** 0.5;
    }
  }
  return { sound, places };
}
const survey = (sound: Float32Array): readonly Finding[] => {
  const surveyor = new Surveyor(kernels, RATE_HZ, 1);
  surveyor.process([sound], sound.length);
  return surveyor.finish().findings;
};
const spansOf = (findings: readonly Finding[], kind: 'breaths' | 'gap-sounds'): readonly { startSeconds: number; endSeconds: number }[] =>
  findings.flatMap((finding) => (finding.kind === kind ? finding.spans : []));
const floor = mixed(talk, noise(-74, SECONDS, 3));

test('there are pauses to put something into', () => expect(pauses.length).toBeGreaterThan(5));

test('a breath before words is told, where it is', () => {
  const { sound, places } = before(240, 50, 400, 2500, 0.04);
  const spans = spansOf(survey(mixed(floor, sound)), 'breaths');
  const hit = places.filter((start) =>
    spans.some(({ startSeconds, endSeconds }) => startSeconds < start / RATE_HZ + 0.2 && endSeconds > start / RATE_HZ + 0.05),
  );
  expect(hit.length / places.length).toBeGreaterThan(0.85);
});

test('an s before words is neither a breath nor a click', () => {
  const { sound } = before(160, 15, 5500, 9000, 0.12);
  const findings = survey(mixed(floor, sound));
  expect(spansOf(findings, 'breaths')).toEqual([]);
  expect(findings.find(({ kind }) => kind === 'clicks')).toBeUndefined();
});

test('without either, nothing is told of the gaps', () => {
  const findings = survey(floor);
  expect(spansOf(findings, 'breaths')).toEqual([]);
  expect(spansOf(findings, 'gap-sounds')).toEqual([]);
});
