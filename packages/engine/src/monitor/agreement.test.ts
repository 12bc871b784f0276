import { type ChainSpec } from '@euphonos/dsp';
import { levelDb, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { chain, createMonitor, listen, offline } from '../testing/listening.js';
import { QUANTUM_FRAMES } from './voice.js';

/** How far what is heard from a place on lies from what a render makes of it, dBFS. */
function disagreementDb(spec: ChainSpec, startSeconds = 1.2): number {
  const monitor = createMonitor(spec);
  const start = Math.round(startSeconds * RATE_HZ);
  monitor.play(start);
  const { out, frames } = listen(monitor, 1.4);
  const render = offline(spec);
  // From a few milliseconds after the start, when the fade is over.
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  const from = first * QUANTUM_FRAMES;
  const length = Math.min(out.length - from, RATE_HZ);
  const difference = Float32Array.from({ length }, (_, n) => out[from + n]! - render[frames[first]! + n]!);
  return levelDb(difference);
}

test.each([
  ['channels', { polarity: 'first' }, -90],
  ['plosives', {}, -90],
  [
    'tone',
    {
      bands: [
        { shape: 'low-shelf', frequencyHz: 150, gainDb: -6, q: 0.7 },
        { shape: 'bell', frequencyHz: 360, gainDb: 4, q: 2 },
      ],
    },
    -90,
  ],
  ['room', {}, -90],
  ['sibilance', {}, -90],
  // These remember more than the run-in of 0.4 s: the level of a voice, the lines of a hum. Here they start from noise.
  ['hum-lines', {}, -60],
  ['hum-notch', { drift: 'follow' }, -60],
])('%s: what is heard is what is rendered', (kind, settings, limit) => {
  expect(disagreementDb(chain({ kind, ...settings }))).toBeLessThan(limit);
});

test.each([
  ['fixed', -90],
  ['follow', -90],
  ['tracked', -90],
  ['voice', -90],
])('noise reduction, %s: heard from the start it is what is rendered', (mode, limit) => {
  expect(disagreementDb(chain({ kind: 'noise-reduction', mode }), 0)).toBeLessThan(limit);
});

test.each([
  ['fixed', -90],
  ['follow', -90],
  // What is tracked remembers more than the run-in of 0.4 s.
  ['tracked', -55],
  ['voice', -55],
])('noise reduction, %s: from the middle, after the run-in', (mode, limit) => {
  expect(disagreementDb(chain({ kind: 'noise-reduction', mode }))).toBeLessThan(limit);
});

test('pauses and breaths are lowered live, behind a noise reduction, at the place where a render does', () => {
  const pauses = {
    kind: 'pauses',
    shortestMs: 100,
    afterWordMs: 20,
    beforeWordMs: 20,
    pauses: [
      { startSeconds: 0.2, endSeconds: 0.95, state: 'treat' },
      { startSeconds: 1.95, endSeconds: 2.8, state: 'treat' },
    ],
  };
  const breaths = { kind: 'breaths', breaths: [{ startSeconds: 1.4, endSeconds: 1.7, certaintyPercent: 90, state: 'treat' }] };
  expect(disagreementDb(chain({ kind: 'noise-reduction' }, pauses, breaths, { kind: 'gate' }))).toBeLessThan(-90);
});

test('a gate that listens to talk knows where it is, also behind a stage that is late', () => {
  expect(
    disagreementDb(
      chain(
        { kind: 'noise-reduction' },
        {
          kind: 'gate',
          listens: 'talk',
          quiet: [
            { startSeconds: 0, endSeconds: 1.1 },
            { startSeconds: 1.8, endSeconds: 2.9 },
          ],
        },
      ),
    ),
  ).toBeLessThan(-90);
});
