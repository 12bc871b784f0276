import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { channels } from './channels.js';

const create = (settings: Record<string, string> = {}, count = 2) =>
  channels.create(
    { sampleRateHz: RATE_HZ, channels: count, kernels },
    { route: 'as-it-is', polarity: 'as-it-is', offset: 'kept', ...settings },
  );
const left = noise(-20, 0.2, 1);
const right = noise(-30, 0.2, 2);

describe('conformance', () => conformance(() => create({ route: 'sum', offset: 'out' })));

test.each<[string, (l: number, r: number) => [number, number]]>([
  ['as-it-is', (l, r) => [l, r]],
  ['first', (l) => [l, l]],
  ['second', (_, r) => [r, r]],
  ['sum', (l, r) => [(l + r) / 2, (l + r) / 2]],
  ['difference', (l, r) => [(l - r) / 2, (l - r) / 2]],
  ['swap', (l, r) => [r, l]],
])('%s routes as it says', (route, expected) => {
  const out = run(create({ route }), [left, right]);
  for (let n = 0; n < left.length; n += 97) {
    const [l, r] = expected(left[n]!, right[n]!);
    expect(out[0]![n]).toBeCloseTo(l, 7);
    expect(out[1]![n]).toBeCloseTo(r, 7);
  }
});

test('a turned side cancels against the same on the other', () => {
  const out = run(create({ polarity: 'second', route: 'sum' }), [left, left]);
  expect(levelDb(out[0]!)).toBeLessThan(-200);
});

test('a constant offset goes, a voice stays', () => {
  const shifted = sine(100, -20, 3).map((x) => x + 0.1);
  const out = run(create({ offset: 'out' }, 1), [shifted])[0]!;
  let mean = 0;
  for (let n = 96000; n < 144000; n++) mean += out[n]! / 48000;
  expect(Math.abs(mean)).toBeLessThan(1e-5);
  expect(toneDb(out, 100, 96000)).toBeCloseTo(-20, 1);
});
