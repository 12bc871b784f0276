import * as fc from 'fast-check';
import { Memory } from '../memory.js';
import { LEAD_SECONDS, type Processor } from '../processor.js';
import { joined, noise, run, silence, sine } from './signals.js';

/** The index of the first sample that differs, with both values; undefined when all are the same. */
function firstDifference(a: Float32Array, b: Float32Array): [number, number, number] | undefined {
  const n = a.findIndex((x, i) => x !== b[i]);
  return a.length === b.length && n < 0 ? undefined : [n, a[n]!, b[n]!];
}

/**
 * What every processor must do, whatever it is for. `create` makes one for two channels at 48 kHz. A chain remembers stage by stage
 * (`stages`): the monitor's tests of agreement read it so.
 */
export function conformance(create: () => Processor, { stages = false } = {}): void {
  const once = (): Float32Array[] => [
    joined(noise(-40, 0.1, 7), sine(220, -12, 0.15), silence(0.05)),
    joined(sine(997, -20, 0.1), noise(-30, 0.1, 8), silence(0.1)),
  ];
  /** Longer than what it is late by. */
  const input = (): Float32Array[] => {
    const times = 1 + Math.ceil(create().latencyFrames / 14_400);
    return once().map((sound) => (times < 2 || create().latencyFrames < 9600 ? sound : joined(...Array<Float32Array>(times).fill(sound))));
  };

  test('any split into blocks gives the same samples', () => {
    const whole = run(create(), input(), 4096);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 1500 }), { minLength: 1, maxLength: 12 }), (sizes) => {
        const processor = create();
        const source = input();
        const length = source[0]!.length;
        const out = source.map(() => new Float32Array(length));
        for (let from = 0, i = 0; from < length; i++) {
          const to = Math.min(length, from + sizes[i % sizes.length]!);
          processor.process(
            source.map((s) => s.subarray(from, to)),
            out.map((o) => o.subarray(from, to)),
            to - from,
          );
          from = to;
        }
        for (let c = 0; c < 2; c++)
          expect(
            firstDifference(out[c]!.subarray(processor.latencyFrames), whole[c]!.subarray(0, length - processor.latencyFrames)),
          ).toBeUndefined();
      }),
      { numRuns: 8 },
    );
  });

  test('works in place', () => {
    const processor = create();
    const block = input();
    const expected = run(create(), input(), 4096);
    for (let from = 0; from < block[0]!.length; from += 333) {
      const part = block.map((s) => s.subarray(from, Math.min(from + 333, s.length)));
      processor.process(part, part, part[0]!.length);
    }
    const inTime = expected[0]!.subarray(0, block[0]!.length - processor.latencyFrames);
    expect(firstDifference(block[0]!.subarray(processor.latencyFrames), inTime)).toBeUndefined();
  });

  test('reset is as good as new', () => {
    const processor = create();
    const first = run(processor, input());
    processor.reset();
    run(processor, input()).forEach((samples, c) => expect(firstDifference(samples, first[c]!)).toBeUndefined());
  });

  (stages ? test.skip : test)('gone on from what it remembers, it is as if it had heard all', () => {
    const GRID = 2048;
    const processor = create();
    // Talk, a pause, talk, and a floor under it.
    const word = (hz: number, db: number): Float32Array => sine(hz, db, 0.35);
    const left = joined(
      noise(-40, 0.7, 3),
      word(180, -14),
      noise(-58, 0.6, 4),
      word(240, -18),
      noise(-55, 0.8, 5),
      word(130, -10),
      noise(-50, 1, 6),
    );
    const sound = [left, left.map((x, n) => 0.5 * x + 0.5 * (left[n - 5] ?? 0))];
    const length = left.length;
    // What waits for what comes later must have heard that as well.
    const lead = GRID * Math.ceil((LEAD_SECONDS * 48000 + processor.latencyFrames) / GRID);
    const at = GRID * 70;
    const out = sound.map(() => new Float32Array(length));
    const part = (from: number, to: number, with_: Processor): Float32Array[] => {
      const made = sound.map(() => new Float32Array(to - from));
      for (let n = from; n < to; n += 128)
        with_.process(
          sound.map((s) => s.subarray(n, n + 128)),
          made.map((m) => m.subarray(n - from, n - from + 128)),
          128,
        );
      return made;
    };
    part(0, at, processor).forEach((m, c) => out[c]!.set(m));
    const memory = new Memory();
    processor.remember?.(memory);
    const rest = part(at, at + GRID * 20, processor);
    const other = create();
    other.goOnAt?.(at - lead);
    other.locate?.(at - lead);
    part(at - lead, at, other);
    other.remember?.(new Memory(memory.bytes));
    const gone = part(at, at + GRID * 20, other);
    // What settles lately has done so after a window and its look-ahead.
    const settled = GRID * 6;
    gone.forEach((samples, c) => {
      let most = 0;
      for (let n = settled; n < samples.length; n++) most = Math.max(most, Math.abs(samples[n]! - rest[c]![n]!));
      expect(20 * Math.log10(most + 1e-12)).toBeLessThan(-90);
    });
  });

  test('silence stays silence, and no sample is NaN', () => {
    const out = run(create(), [silence(0.5), silence(0.5)]);
    for (const samples of out) expect(samples.findIndex((x) => !(x < 1e-9 && x > -1e-9))).toBe(-1);
    for (const samples of run(create(), input())) expect(samples.every(Number.isFinite)).toBe(true);
  });
}
