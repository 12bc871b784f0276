import type { SoundBlock } from './sound-block.js';
import { ReadAhead } from './read-ahead.js';

const RATE_HZ = 1000;
const LENGTH = 60_000;
/** A stream whose samples say where they stand, and which uses its one block again and again. */
async function* counted(onEnd: () => void = () => undefined): AsyncGenerator<SoundBlock> {
  const block = [new Float32Array(777), new Float32Array(777)];
  try {
    for (let at = 0; at < LENGTH; at += 777) {
      const frames = Math.min(777, LENGTH - at);
      for (let n = 0; n < frames; n++) {
        block[0]![n] = at + n;
        block[1]![n] = -(at + n);
      }
      yield { channels: block, frames };
    }
  } finally {
    onEnd();
  }
}
const places = (startFrame: number, endFrame: number) => Float32Array.from({ length: endFrame - startFrame }, (_, n) => startFrame + n);

test('spans are read going forward, each as far back as the surroundings of the last one', async () => {
  const reader = new ReadAhead(counted(), 2, RATE_HZ);
  for (const [from, to] of [
    [0, 10],
    [500, 3000],
    [800, 5000],
    [30_000, 42_001],
    [38_000, 42_002],
  ] as const) {
    const [left, right] = await reader.read(from, to);
    expect(left).toEqual(places(from, to));
    expect(right).toEqual(left!.map((x) => -x));
  }
});

test('beyond the end there is less, and closing lets the stream go', async () => {
  const ended = jest.fn();
  const reader = new ReadAhead(counted(ended), 2, RATE_HZ);
  expect((await reader.read(LENGTH - 5, LENGTH + 100))[0]).toEqual(places(LENGTH - 5, LENGTH));
  const other = new ReadAhead(counted(ended), 2, RATE_HZ);
  await other.read(0, 10);
  ended.mockClear();
  await other.close();
  expect(ended).toHaveBeenCalledTimes(1);
});

test('a cancelled one stops with a reason', async () => {
  const controller = new AbortController();
  const reader = new ReadAhead(counted(), 2, RATE_HZ, controller.signal);
  controller.abort();
  await expect(reader.read(0, 10)).rejects.toMatchObject({ code: 'cancelled' });
});
