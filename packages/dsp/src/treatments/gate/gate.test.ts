import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence, sine } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { gate, type GateValues } from './gate.js';

const create = (values: Partial<GateValues>, channels = 1) =>
  gate.create({ sampleRateHz: RATE_HZ, channels, kernels }, { ...(defaultValues(gate) as unknown as GateValues), ...values });

describe('conformance', () => conformance(() => create({}, 2)));

const MS = RATE_HZ / 1000;

test('closes on a floor below its threshold by exactly its range, leaves a word above it untouched', () => {
  const sound = joined(noise(-60, 1, 1), sine(200, -12, 1), noise(-60, 1.5, 2));
  const out = run(create({ rangeDb: 20 }), [sound])[0]!;
  expect(levelDb(out, 0, 900 * MS) - levelDb(sound, 0, 900 * MS)).toBeCloseTo(-20, 3);
  expect(levelDb(out, 1100 * MS, 1900 * MS)).toBeCloseTo(levelDb(sound, 1100 * MS, 1900 * MS), 3);
  expect(levelDb(out, 2600 * MS, 3400 * MS) - levelDb(sound, 2600 * MS, 3400 * MS)).toBeCloseTo(-20, 3);
});

test('look-ahead opens before the word; hold and release follow it', () => {
  const sound = joined(new Float32Array(RATE_HZ).fill(1e-4), sine(200, -12, 1), new Float32Array(2 * RATE_HZ).fill(1e-4));
  const gains = run(create({ rangeDb: 40, attackMs: 5, lookAheadMs: 15, holdMs: 200, releaseMs: 100 }), [sound])[0]!.map(
    (y, n) => y / sound[n]!,
  );
  expect(gains[980 * MS]).toBeCloseTo(0.01, 3);
  expect(gains[1000 * MS - 1]).toBeGreaterThan(0.99);
  expect(gains[2100 * MS]).toBeCloseTo(1, 3);
  expect(gains[2190 * MS]).toBeCloseTo(1, 3);
  expect(gains[2340 * MS]).toBeCloseTo(0.01, 3);
});

test('hysteresis: a level between closing and opening neither opens nor closes it', () => {
  const between = noise(-46, 1, 5);
  const fresh = run(create({ rangeDb: 20 }), [between])[0]!;
  expect(levelDb(fresh, 0, 900 * MS) - levelDb(between, 0, 900 * MS)).toBeCloseTo(-20, 2);
  const afterWord = joined(sine(200, -12, 0.5), between);
  const out = run(create({ rangeDb: 20 }), [afterWord])[0]!;
  expect(levelDb(out, 1000 * MS, 1400 * MS)).toBeCloseTo(levelDb(afterWord, 1000 * MS, 1400 * MS), 1);
});

test('the gain never jumps: no step above the fastest ramp', () => {
  const sound = new Float32Array(RATE_HZ * 2).map((_, n) => (Math.floor(n / 9600) % 2 === 0 ? 0.3 : 1e-3));
  const gains = run(create({ rangeDb: 60, attackMs: 10, releaseMs: 50, holdMs: 0 }), [sound])[0]!.map((y, n) => y / sound[n]!);
  for (let n = 1; n < gains.length; n++) expect(Math.abs(20 * Math.log10(gains[n]! / gains[n - 1]!))).toBeLessThan(60 / 480 + 0.001);
});

test('both channels move together', () => {
  const [left, right] = run(create({ rangeDb: 30 }, 2), [sine(200, -12, 1), noise(-70, 1, 3)]);
  expect(levelDb(right!, 100 * MS, 900 * MS)).toBeCloseTo(-70, 0);
  expect(levelDb(left!, 100 * MS, 900 * MS)).toBeCloseTo(-15, 0);
});

test('open below close is refused, and a ruler that would make it so takes the other along', () => {
  const values = { ...(defaultValues(gate) as unknown as GateValues), openDb: -50, closeDb: -45 };
  expect(gate.conflict!(values)).toMatch(/-50.*-45/);
  expect(gate.reconcile!(values, 'openDb')).toMatchObject({ openDb: -50, closeDb: -50 });
  expect(gate.reconcile!(values, 'closeDb')).toMatchObject({ openDb: -45, closeDb: -45 });
});

test('where it is closed is told: from half-way down to half-way up, in frames of the recording', () => {
  const events: { startFrame: number; endFrame: number; amountDb: number }[] = [];
  const made = gate.create(
    { sampleRateHz: RATE_HZ, channels: 1, kernels, startFrame: 9600, onEvent: (event) => events.push(event) },
    { ...(defaultValues(gate) as unknown as GateValues), rangeDb: 20, holdMs: 100, releaseMs: 100, attackMs: 10 },
  );
  run(made, [joined(sine(200, -12, 0.5), noise(-70, 1, 4), sine(200, -12, 0.5), new Float32Array(4800))]);
  const inner = events.find(({ startFrame }) => startFrame > 9600 + 20000)!;
  // The detector falls for some 40 ms, then hold and half of the release; up again within the attack, before the next word.
  expect(Math.abs(inner.startFrame - (9600 + 24000 + 1900 + 4800 + 2400))).toBeLessThan(600);
  expect(Math.abs(inner.endFrame - (9600 + 72000))).toBeLessThan(600);
  expect(inner.amountDb).toBeCloseTo(20, 3);
});

test('listening to the voice band it closes on rumble and hiss, and opens for a word as before', () => {
  const rumble = mixed(sine(40, -30, 3), noise(-62, 3, 6));
  const word = joined(new Float32Array(RATE_HZ), sine(440, -20, 1), new Float32Array(RATE_HZ));
  const of = (listens: string) => run(create({ listens, rangeDb: 20 } as Partial<GateValues>), [mixed(rumble, word)])[0]!;
  const rumbleDb = levelDb(rumble, 100 * MS, 900 * MS);
  expect(levelDb(of('all'), 100 * MS, 900 * MS) - rumbleDb).toBeCloseTo(0, 1);
  expect(levelDb(of('voice'), 100 * MS, 900 * MS) - rumbleDb).toBeCloseTo(-20, 1);
  expect(levelDb(of('voice'), 1050 * MS, 1950 * MS)).toBeCloseTo(levelDb(mixed(rumble, word), 1050 * MS, 1950 * MS), 1);
});

describe('conformance of the voice band', () => conformance(() => create({ listens: 'voice' } as Partial<GateValues>, 2)));

describe('listening to talk', () => {
  /** Talk to 1 s, of which the last 0.3 s is soft; a chair at 1.6 s; talk from 2 s on. */
  const hiss = noise(-70, 1, 8);
  const loud = sine(500, -20, 0.7);
  const sound = joined(loud, sine(500, -52, 0.3), silence(0.6), sine(800, -20, 0.2), silence(0.2), loud).map(
    (x, n) => x + hiss[n % hiss.length]!,
  );
  const create = (listens: string) =>
    gate.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, {
      ...defaultValues(gate),
      listens,
      quiet: [{ startSeconds: 1, endSeconds: 2 }],
      rangeDb: 40,
      holdMs: 50,
      releaseMs: 20,
    } as never);
  const lowered = (out: Float32Array, from: number, to: number): number =>
    levelDb(sound, from * RATE_HZ, to * RATE_HZ) - levelDb(out, from * RATE_HZ, to * RATE_HZ);

  test('a soft end of a word keeps it open, a chair does not open it', () => {
    const [talk] = run(create('talk'), [sound]);
    const [level] = run(create('all'), [sound]);
    expect(lowered(level!, 0.85, 0.98)).toBeGreaterThan(30);
    expect(lowered(talk!, 0.85, 0.98)).toBeLessThan(0.5);
    expect(lowered(level!, 1.65, 1.78)).toBeLessThan(1);
    expect(lowered(talk!, 1.65, 1.78)).toBeGreaterThan(30);
    expect(lowered(talk!, 2.1, 2.5)).toBeLessThan(0.5);
  });

  describe('conformance', () => conformance(() => create('talk')));

  test('other pauses need a new processor, other levels do not', () => {
    const made = create('talk');
    const values = (quiet: object[], more: object = {}) =>
      ({ ...(defaultValues(gate) as object), listens: 'talk', quiet, ...more }) as never;
    expect(made.setParameters(values([{ startSeconds: 1, endSeconds: 2 }], { openDb: -30 }))).toBe(true);
    expect(made.setParameters(values([{ startSeconds: 1, endSeconds: 2.5 }]))).toBe(false);
  });
});

test('listening to words it opens for an s that the voice band does not hear, and not for a chair', () => {
  const hiss = noise(-80, 1, 8);
  const s = sine(9000, -40, 0.3);
  const sound = joined(silence(0.5), s, silence(0.5), s, silence(0.5)).map((x, n) => x + hiss[n % hiss.length]!);
  const of = (listens: string) =>
    run(
      gate.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, {
        ...defaultValues(gate),
        listens,
        openDb: -50,
        closeDb: -55,
        quiet: [{ startSeconds: 0, endSeconds: 1 }],
        rangeDb: 40,
      } as never),
      [sound],
    )[0]!;
  const kept = (out: Float32Array, from: number, to: number): number =>
    levelDb(out, from * RATE_HZ, to * RATE_HZ) - levelDb(sound, from * RATE_HZ, to * RATE_HZ);
  expect(kept(of('words'), 1.32, 1.58)).toBeCloseTo(0, 1);
  expect(kept(of('talk'), 1.32, 1.58)).toBeLessThan(-30);
  expect(kept(of('words'), 0.52, 0.78)).toBeLessThan(-30);
});

describe('conformance of words', () =>
  conformance(() => create({ listens: 'words', quiet: [{ startSeconds: 0.2, endSeconds: 0.4 }] } as never, 2)));

test('a longer look-ahead than usual asks for another gate, and only that', () => {
  const values = (lookAheadMs: number): GateValues => ({ ...(defaultValues(gate) as unknown as GateValues), lookAheadMs });
  const usual = create({});
  expect([usual.latencyFrames, create({ lookAheadMs: 30 }).latencyFrames]).toEqual([20 * MS, 40 * MS]);
  expect([usual.setParameters(values(20)), usual.setParameters(values(20.5))]).toEqual([true, false]);
});
