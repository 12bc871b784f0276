import { createBlock, turned } from '@euphonos/dsp';
import { levelDb } from '../../../dsp/src/testing/signals.js';
import { chain, context, createMonitor, largestStep, listen, offline, profile, recording, store } from '../testing/listening.js';
import { Monitor } from './monitor.js';
import { CHUNK_FRAMES, ChunkStore } from './sample-store.js';
import { QUANTUM_FRAMES } from './voice.js';

describe('what is rendered in the background', () => {
  const gained = (gain: number): ChunkStore => store(recording.map((x) => x * gain));

  test('is heard in place of the recording, while source stays the recording', () => {
    const monitor = new Monitor(context, { store: store(), lengthFrames: recording.length, levels: null });
    monitor.setChain({ treatments: [] }, undefined, gained(0.5));
    monitor.setLane('result');
    monitor.play(48_000);
    const { out, frames } = listen(monitor, 0.8);
    const from = frames.findIndex((frame) => frame >= 0) + 10;
    expect(levelDb(out, from * QUANTUM_FRAMES)).toBeCloseTo(levelDb(recording, 48_000, 48_000 + out.length) - 6, 0);
  });

  test('a new rendering is waited for while the one before goes on, then switched to without a step', () => {
    const monitor = createMonitor({ treatments: [] });
    monitor.play(0);
    listen(monitor, 0.5);
    const coming = new ChunkStore(recording.length);
    monitor.setChain({ treatments: [] }, profile, coming);
    const waiting = listen(monitor, 0.5);
    expect(waiting.frames.every((frame) => frame >= 0)).toBe(true);
    const ready = gained(0.25);
    const block = createBlock(1, CHUNK_FRAMES);
    for (let i = 0; i * CHUNK_FRAMES < recording.length; i++) {
      ready.read(i * CHUNK_FRAMES, block, 0, CHUNK_FRAMES);
      coming.put(i, [block[0]!.slice()]);
    }
    const { out, frames } = listen(monitor, 0.5);
    expect(frames.every((frame) => frame >= 0)).toBe(true);
    const last = frames[frames.length - 1]! - 40 * QUANTUM_FRAMES;
    expect(levelDb(out, out.length - 41 * QUANTUM_FRAMES, out.length - QUANTUM_FRAMES)).toBeCloseTo(
      levelDb(recording, last, last + 40 * QUANTUM_FRAMES) - 12,
      0,
    );
    expect(largestStep(out)).toBeLessThan(1.1);
  });
});

describe('one treatment heard alone', () => {
  test('is the difference that it makes, aligned to the sample', () => {
    const spec = chain({ kind: 'high-pass', id: 'a' }, { kind: 'hum-notch', id: 'b', harmonics: 2 }, { kind: 'gate', id: 'c' });
    const alone = offline({ ...spec, alone: 'b' });
    const [before, after] = [offline({ treatments: spec.treatments.slice(0, 1) }), offline({ treatments: spec.treatments.slice(0, 2) })];
    // A notch turns phase beside its line: what goes in is turned alike.
    const [into] = turned(context, { treatments: spec.treatments.slice(1, 2) }, [before]);
    for (let n = 0; n < alone.length; n += 97) expect(alone[n]).toBeCloseTo(into![n]! - after[n]!, 7);
  });

  test('is silence when it does not sound: bypassed, gone, or waiting for a profile', () => {
    const spec = chain({ kind: 'high-pass', id: 'a' }, { kind: 'gate', id: 'b', bypassed: true });
    for (const alone of ['b', 'gone']) expect(offline({ ...spec, alone }).every((x) => x === 0)).toBe(true);
  });
});
