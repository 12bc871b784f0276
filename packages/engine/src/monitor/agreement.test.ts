import { memoryKey, type ChainSpec } from '@euphonos/dsp';
import { levelDb, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { everything, talk } from '../testing/everything.js';
import {
  chain,
  compared,
  context,
  createMonitor,
  largestStep,
  listen,
  memoriesOf,
  offline,
  profile,
  recording,
} from '../testing/listening.js';
import { MemoryPass } from './memory-pass.js';
import { Memories } from './memories.js';
import { QUANTUM_FRAMES } from './voice.js';

/** How far what is heard from a place on lies from what a render makes of it, dBFS. */
function disagreementDb(spec: ChainSpec, startSeconds = 1.2, samples = recording, memories: Memories | null = null): number {
  const monitor = createMonitor(spec, samples);
  monitor.setMemories(memories);
  const start = Math.round(startSeconds * RATE_HZ);
  monitor.play(start);
  const { out, frames } = listen(monitor, 1.4);
  const render = offline(spec, samples);
  // From a few milliseconds after the start, when the fade is over.
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  const from = first * QUANTUM_FRAMES;
  const length = Math.min(out.length - from, RATE_HZ);
  const difference = Float32Array.from({ length }, (_, n) => out[from + n]! - render[frames[first]! + n]!);
  return levelDb(difference);
}

test.each(everything)('%s: from the start, what is heard is what is rendered', (_, ...treatments) => {
  expect(disagreementDb(chain(...treatments), 0, talk)).toBeLessThan(-90);
});

test.each(everything)('%s: from anywhere, with what it remembers', (_, ...treatments) => {
  const spec = chain(...treatments);
  const memories = memoriesOf(spec, talk);
  for (const seconds of [1.5, 4.4, 7.3]) expect(disagreementDb(spec, seconds, talk, memories)).toBeLessThan(-90);
});

test('the source lane, too: notches that follow turn it as they do in a render', () => {
  const spec = chain({ kind: 'hum-notch', drift: 'follow' }, { kind: 'gate' });
  const monitor = createMonitor(spec, talk);
  monitor.setMemories(memoriesOf(spec, talk));
  monitor.setLane('source');
  monitor.play(5 * RATE_HZ);
  const { out, frames } = listen(monitor, 1.4);
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  const render = compared(spec, talk);
  expect(
    levelDb(Float32Array.from({ length: RATE_HZ }, (_, n) => out[first * QUANTUM_FRAMES + n]! - render[frames[first]! + n]!)),
  ).toBeLessThan(-90);
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

describe('what a chain remembers', () => {
  const spec = chain({ kind: 'hum-lines' }, { kind: 'noise-reduction', mode: 'tracked' }, { kind: 'gate' });

  test('without it, what starts in the middle says that it is not exact; it goes over to it once it is there', () => {
    const monitor = createMonitor(spec, talk);
    monitor.play(5 * RATE_HZ);
    listen(monitor, 0.3);
    expect(monitor.exact).toBe(false);
    monitor.setMemories(memoriesOf(spec, talk));
    const { out } = listen(monitor, 0.7);
    expect(monitor.exact).toBe(true);
    expect(largestStep(out) / largestStep(talk)).toBeLessThan(1.1);
    const { out: later, frames } = listen(monitor, 1);
    const render = offline(spec, talk);
    expect(levelDb(later.map((x, n) => x - render[frames[0]! + n]!))).toBeLessThan(-90);
  });

  test('of another chain it is not used', () => {
    const monitor = createMonitor(spec, talk);
    monitor.setMemories(memoriesOf(chain({ kind: 'hum-lines' }, { kind: 'gate' }), talk));
    monitor.play(5 * RATE_HZ);
    expect(monitor.exact).toBe(false);
  });

  test('values that move while it plays make it inexact, as they are remembered', () => {
    const monitor = createMonitor(spec, talk);
    monitor.play(0);
    listen(monitor, 0.2);
    expect(monitor.exact).toBe(true);
    monitor.setChain(
      chain({ kind: 'hum-lines' }, { kind: 'noise-reduction', mode: 'tracked', reductionDb: 20 }, { kind: 'gate' }),
      profile,
    );
    expect(monitor.exact).toBe(false);
  });

  test('after an edit it is made anew from there on, and is the same as from the start', () => {
    const editedFrame = 5.3 * RATE_HZ;
    const edited = talk.map((x, n) => (n < editedFrame ? x : 0.3 * x));
    const pass = new MemoryPass({ ...context, noiseProfile: profile }, spec, spec, edited.length, memoryKey(spec), {
      memories: memoriesOf(spec, talk),
      unchangedFrames: editedFrame,
    });
    const from = pass.nextFrame;
    expect(from).toBeGreaterThan(3 * RATE_HZ);
    expect(from).toBeLessThan(editedFrame);
    pass.push([edited.subarray(from)], edited.length - from);
    for (const seconds of [2, 4.6, 7.3]) expect(disagreementDb(spec, seconds, edited, pass.memories)).toBeLessThan(-90);
  });

  test('an hour of two channels fits into 40 MB', () => {
    const bytes = 100_000;
    const spacing = Memories.spacingFrames(48_000, 3600 * 48_000, bytes);
    expect(((3600 * 48_000) / spacing) * bytes).toBeLessThanOrEqual(40e6);
    expect(Memories.spacingFrames(48_000, 60 * 48_000, bytes)).toBeLessThan(0.6 * 48_000);
  });
});
