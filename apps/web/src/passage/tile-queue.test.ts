import { TileQueue } from './tile-queue.js';

/** Tiles that come when told to. */
function desk() {
  const asked: { key: string; come: (tile: string) => void; fail: (error: Error) => void }[] = [];
  const arrivals: string[] = [];
  const troubles: unknown[] = [];
  const queue = new TileQueue<string>(
    () => arrivals.push('arrived'),
    (error) => troubles.push(error),
  );
  const want = (key: string, version = 1, asker = 'strip') =>
    queue.want(asker, { key, version }, () => new Promise<string>((come, fail) => asked.push({ key, come, fail })));
  return { queue, asked, arrivals, troubles, want };
}
const settle = () => new Promise((resolve) => setTimeout(resolve, 0));

test('two requests at once; what was asked for before a newer frame is not fetched any more', async () => {
  const { queue, asked, want } = desk();
  queue.startFrame('strip');
  for (const key of ['a', 'b', 'c', 'd']) want(key);
  queue.endFrame();
  expect(asked.map(({ key }) => key)).toEqual(['a', 'b']);
  queue.startFrame('strip');
  want('z');
  queue.endFrame();
  asked[0]!.come('A');
  await settle();
  expect(asked.map(({ key }) => key)).toEqual(['a', 'b', 'z']);
});

test('a tile of an older version is given until the new one has come', async () => {
  const { queue, asked, want } = desk();
  queue.startFrame('strip');
  expect(want('a', 1)).toBeUndefined();
  queue.endFrame();
  asked[0]!.come('old');
  await settle();
  queue.startFrame('strip');
  expect(want('a', 2)).toBe('old');
  queue.endFrame();
  asked[1]!.come('new');
  await settle();
  expect(want('a', 2)).toBe('new');
});

test('an answer that comes late does not replace a newer one', async () => {
  const { queue, asked, want } = desk();
  for (const version of [1, 2]) {
    queue.startFrame('strip');
    want('a', version);
    queue.endFrame();
  }
  asked[1]!.come('new');
  asked[0]!.come('old');
  await settle();
  expect(want('a', 2)).toBe('new');
});

test('askers are served in turn, so that one long list does not hold up the others', async () => {
  const { queue, asked, want } = desk();
  queue.startFrame('source');
  for (const key of ['s1', 's2', 's3', 's4']) want(key, 1, 'source');
  queue.startFrame('result');
  for (const key of ['r1', 'r2']) want(key, 1, 'result');
  queue.endFrame();
  for (let i = 0; i < 4; i++) {
    asked[i]!.come('tile');
    await settle();
  }
  expect(asked.slice(0, 4).map(({ key }) => key)).toEqual(['s1', 'r1', 's2', 'r2']);
});

test('trouble is told, and the tile can be asked for again', async () => {
  const { queue, asked, troubles, want } = desk();
  queue.startFrame('strip');
  want('a');
  queue.endFrame();
  asked[0]!.fail(new Error('line cut'));
  await settle();
  expect(troubles).toHaveLength(1);
  queue.startFrame('strip');
  want('a');
  queue.endFrame();
  expect(asked).toHaveLength(2);
  expect(queue.waiting).toBe(true);
});
