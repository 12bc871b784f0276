import type { ChainSpec } from '@euphonos/dsp';
import { levelDb, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import {
  chain,
  compared,
  context,
  createMonitor,
  full,
  largestStep,
  listen,
  offline,
  profile,
  recording,
  store,
} from '../testing/listening.js';
import { Monitor } from './monitor.js';
import { CHUNK_FRAMES } from './sample-store.js';
import { QUANTUM_FRAMES } from './voice.js';

/** Level of what differs between the monitor from `fromFrame` on and a reference, after the fade-in. */
function differenceDb(monitor: Monitor, fromFrame: number, reference: Float32Array): number {
  monitor.play(fromFrame);
  const { out } = listen(monitor, 2.5);
  const start = out.findIndex((x) => x !== 0);
  const skip = 1024;
  const length = Math.min(out.length - start, reference.length - fromFrame) - skip;
  const first = Math.floor(start / QUANTUM_FRAMES) * QUANTUM_FRAMES;
  const difference = new Float32Array(length - QUANTUM_FRAMES);
  for (let n = 0; n < difference.length; n++) difference[n] = out[first + skip + n]! - reference[fromFrame + skip + n]!;
  return levelDb(difference);
}

test('heard is rendered: from the start, monitor and offline run agree within -90 dBFS for every treatment', () => {
  for (const spec of [full, ...full.treatments.map((t) => ({ treatments: [t] }))])
    expect(differenceDb(createMonitor(spec), 0, offline(spec))).toBeLessThan(-90);
});

test('heard is rendered: also from the middle, after the lead', () => {
  expect(differenceDb(createMonitor(), 40000, offline(full))).toBeLessThan(-90);
});

/** A lane over one and a half seconds, and the frame that it begins with. */
function laneOf(spec: ChainSpec, name: 'source' | 'removed' | 'result', start = 0): { sound: Float32Array; from: number } {
  const monitor = createMonitor(spec);
  monitor.setLane(name);
  monitor.play(start);
  const { out, frames } = listen(monitor, 2);
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  return { sound: out.subarray(first * 128, Math.min(out.length, first * 128 + 1.2 * RATE_HZ)), from: frames[first]! };
}

test('behind what turns no phase the source is the recording to the bit', () => {
  const { sound, from } = laneOf(chain({ kind: 'noise-reduction' }, { kind: 'gate' }), 'source');
  expect(sound).toEqual(recording.slice(from, from + sound.length));
});

test.each([
  ['filters, noise reduction, gate', full],
  [
    'tone, whose turn looks further ahead than the chain',
    chain({ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 300, gainDb: -6, q: 1 }] }, { kind: 'high-pass' }),
  ],
])('source = removed + result, the source turned as %s turn it', (_, spec) => {
  for (const start of [0, 40_000]) {
    const [source, removed, result] = [laneOf(spec, 'source', start), laneOf(spec, 'removed', start), laneOf(spec, 'result', start)];
    expect([removed.from, result.from]).toEqual([source.from, source.from]);
    expect(levelDb(source.sound.map((x, n) => x - removed.sound[n]! - result.sound[n]!))).toBeLessThan(-120);
    const whole = compared(spec).subarray(source.from, source.from + source.sound.length);
    expect(levelDb(source.sound.map((x, n) => x - whole[n]!))).toBeLessThan(-90);
  }
});

test('starts within 100 ms of play', () => {
  const monitor = createMonitor();
  monitor.play(60000);
  expect(listen(monitor, 0.1).out.some((x) => x !== 0)).toBe(true);
});

test('a loop repeats, stays aligned, and its seam does not click', () => {
  const monitor = createMonitor();
  const loop = { startFrame: 50000, endFrame: 80000 };
  monitor.setLoop(loop);
  monitor.setLane('source');
  monitor.play(50000);
  const { out, frames } = listen(monitor, 2.2);
  const playing = frames.filter((frame) => frame >= 0);
  expect(Math.max(...playing)).toBeLessThan(loop.endFrame);
  const wraps = playing.filter((frame, i) => i > 0 && frame < playing[i - 1]!);
  expect(wraps.length).toBe(3);
  expect(largestStep(out)).toBeLessThan(1.1);
});

test.each([10_000, 480, 200])('a jump into a loop of %d frames that is set at the same time arrives, and stays in it', (length) => {
  const monitor = createMonitor();
  monitor.play(0);
  const { frames } = listen(monitor, 1.2, (q) => {
    if (q !== 100) return;
    monitor.seek(90_000);
    monitor.setLoop({ startFrame: 90_000, endFrame: 90_000 + length });
  });
  const after = frames.slice(160).filter((frame) => frame >= 0);
  expect(after.length).toBeGreaterThan(200);
  expect(Math.min(...after)).toBeGreaterThanOrEqual(90_000);
  expect(Math.max(...after)).toBeLessThan(90_000 + length);
});

test.each(['seek', 'stop'] as const)('%s is obeyed also when the samples of the old place are gone before the fade is over', (command) => {
  const chunks = store();
  const monitor = new Monitor(context, { store: chunks, lengthFrames: recording.length, levels: null });
  monitor.setChain(full, profile);
  monitor.play(0);
  const { out, frames } = listen(monitor, 1.2, (q) => {
    if (q !== 100) return;
    if (command === 'seek') monitor.seek(100_000);
    else monitor.stop();
    chunks.drop(0);
  });
  if (command === 'stop') expect(monitor.status).toBe('stopped');
  else {
    expect(frames[frames.length - 1]!).toBeGreaterThan(100_000);
    expect(levelDb(out, 50_000, out.length)).toBeGreaterThan(-90);
  }
});

test('a moved control is heard within 100 ms, without a click or a gap', () => {
  const monitor = createMonitor(chain({ kind: 'high-pass', cutoffHz: 40 }, { kind: 'noise-reduction' }, { kind: 'gate', rangeDb: 0 }));
  monitor.play(48000);
  let movedAt = 0;
  const { out } = listen(monitor, 0.9, (q) => {
    if (q !== 200) return;
    movedAt = q * QUANTUM_FRAMES;
    monitor.setChain(
      chain({ kind: 'high-pass', cutoffHz: 500, slopeDbPerOctave: 24 }, { kind: 'noise-reduction' }, { kind: 'gate', rangeDb: 0 }),
      profile,
    );
  });
  expect(levelDb(out, movedAt - 4800, movedAt)).toBeGreaterThan(-30);
  // The change comes after the latency of what stands behind it (84 ms) and glides in: 8 dB lower at 100 ms, done at 150.
  expect(levelDb(out, movedAt + 4800, movedAt + 5760)).toBeLessThan(-28);
  expect(levelDb(out, movedAt + 7200, movedAt + 9600)).toBeLessThan(-38);
  expect(largestStep(out)).toBeLessThan(1.2);
});

test('another structure (order, bypass, slope) crossfades within 100 ms, without a click, in time', () => {
  const monitor = createMonitor(full);
  monitor.play(48000);
  let at = 0;
  const { out, frames } = listen(monitor, 0.9, (q) => {
    if (q !== 200) return;
    at = q * QUANTUM_FRAMES;
    monitor.setChain({ treatments: [] }, profile);
  });
  expect(largestStep(out)).toBeLessThan(1.2);
  const late = at + 4800;
  const frame = frames[Math.ceil(late / QUANTUM_FRAMES)]!;
  const from = Math.ceil(late / QUANTUM_FRAMES) * QUANTUM_FRAMES;
  expect(out.slice(from, from + 4800)).toEqual(recording.slice(frame, frame + 4800));
  for (let q = 210; q < frames.length; q++) expect(frames[q]! - frames[q - 1]!).toBe(QUANTUM_FRAMES);
});

test('another slope at the head of the longest chain is heard within 100 ms', () => {
  const steep = chain(
    { kind: 'high-pass', cutoffHz: 400, slopeDbPerOctave: 48 },
    { kind: 'hum-notch' },
    { kind: 'noise-reduction' },
    { kind: 'gate' },
  );
  const monitor = createMonitor(full);
  monitor.play(48000);
  const { out, frames } = listen(monitor, 0.7, (q) => q === 150 && monitor.setChain(steep, profile));
  const heard = 150 * QUANTUM_FRAMES + 4800;
  const from = Math.ceil(heard / QUANTUM_FRAMES) * QUANTUM_FRAMES;
  const wanted = offline(steep).subarray(frames[from / QUANTUM_FRAMES]!);
  expect(levelDb(out.slice(from, from + 9600).map((x, n) => x - wanted[n]!))).toBeLessThan(-80);
  expect(levelDb(out, from - 14400, from - 5000)).toBeGreaterThan(levelDb(out, from, from + 9600) + 3);
});

test('switching lanes and equal loudness make no click', () => {
  const monitor = createMonitor();
  monitor.play(48000);
  const { out } = listen(monitor, 0.9, (q) => {
    monitor.setLane((['source', 'removed', 'result'] as const)[Math.floor(q / 50) % 3]!);
    if (q === 120) monitor.setLaneGains({ source: 0, removed: 3, result: 3 });
  });
  expect(largestStep(out)).toBeLessThan(1.6);
});

test('missing samples: it waits in silence and goes on where it was', () => {
  const chunks = store();
  const monitor = new Monitor(context, { store: chunks, lengthFrames: recording.length, levels: null });
  monitor.setChain(full, profile);
  const second = chunks;
  second.drop(1);
  monitor.play(20000);
  listen(monitor, 0.6);
  expect(monitor.status).toBe('waiting');
  const stuckAt = monitor.frame;
  const chunk = new Float32Array(CHUNK_FRAMES);
  chunk.set(recording.subarray(CHUNK_FRAMES, 2 * CHUNK_FRAMES));
  second.put(1, [chunk]);
  const { frames } = listen(monitor, 0.3);
  expect(frames.find((frame) => frame >= 0)).toBeGreaterThanOrEqual(stuckAt);
  expect(monitor.status).toBe('playing');
});

test('stops at the end and on stop, with a fade', () => {
  const monitor = createMonitor();
  monitor.play(recording.length - 9600);
  listen(monitor, 0.6);
  expect(monitor.status).toBe('stopped');
  monitor.play(60000);
  const { out } = listen(monitor, 0.5, (q) => q === 100 && monitor.stop());
  expect(monitor.status).toBe('stopped');
  expect(largestStep(out)).toBeLessThan(1.1);
  expect(levelDb(out, out.length - 4800)).toBe(-Infinity);
});
