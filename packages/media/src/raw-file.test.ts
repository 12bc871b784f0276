import { writeFileSync } from 'node:fs';
import { collectSpan } from './collect.js';
import { readChannelFiles } from './raw-file.js';
import { scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);

test('a span that reaches beyond the end gives what is there, and nothing of a block before', async () => {
  const samples = Float32Array.from({ length: 70_000 }, (_, n) => n + 1);
  writeFileSync(files.path('one.raw'), Buffer.from(samples.buffer));
  const read = (from: number, to: number): Promise<Float32Array[]> =>
    collectSpan(readChannelFiles([files.path('one.raw'), files.path('one.raw')], from, to), 0, to - from);
  const [left, right] = await read(10_000, 90_000);
  expect(left).toEqual(samples.subarray(10_000));
  expect(right).toEqual(left);
  expect((await read(65_000, 70_000))[0]).toEqual(samples.subarray(65_000));
  expect(await read(70_000, 80_000)).toEqual([]);
});
