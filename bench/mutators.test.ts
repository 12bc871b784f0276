// The damage that the campaign does is the same every time, and is damage.
import { dice, mutated } from './mutators.mjs';

const wav = Buffer.alloc(4096, 7);
wav.write('RIFF', 0, 'latin1');
wav.writeUInt32LE(4088, 4);
wav.write('WAVEfmt ', 8, 'latin1');
wav.writeUInt32LE(16, 16);
wav.write('data', 36, 'latin1');
wav.writeUInt32LE(4052, 40);
const json = Buffer.from(JSON.stringify({ a: [1, { b: 'c' }], d: { e: null }, f: 'g' }));

test('numbers from 0 to 1, spread evenly', () => {
  const next = dice(5);
  const thrown = Array.from({ length: 20_000 }, next);
  expect(Math.min(...thrown)).toBeGreaterThanOrEqual(0);
  expect(Math.max(...thrown)).toBeLessThan(1);
  for (let tenth = 0; tenth < 10; tenth++) expect(thrown.filter((x) => Math.floor(10 * x) === tenth).length / 2000).toBeCloseTo(1, 0);
});

test.each([
  ['wav', wav],
  ['json', json],
])('%s: the same for the same seed, another for nearly every other, and what was given stays whole', (kind, bytes) => {
  const before = Buffer.from(bytes);
  const made = Array.from({ length: 300 }, (_, seed) => mutated(bytes, kind, seed + 1));
  expect(bytes.equals(before)).toBe(true);
  expect(mutated(bytes, kind, 7).equals(made[6]!)).toBe(true);
  expect(made.filter((one) => one.equals(bytes)).length).toBeLessThan(15);
  expect(new Set(made.map((one) => one.toString('base64'))).size).toBeGreaterThan(150);
});
