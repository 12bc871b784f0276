import { MOST_FILE_BYTES, requireRoom, withinSize } from './room.js';

const free = (freeBytes: number) => async () => ({ freeBytes, totalBytes: 1e15 });
const GB = 2 ** 30;

test('a file that does not fit is refused before its first byte, with both sizes', async () => {
  await expect(requireRoom('/', 3 * GB, free(4 * GB))).resolves.toBeUndefined();
  await expect(requireRoom('/', 4 * GB, free(4 * GB))).rejects.toMatchObject({
    code: 'disk-full',
    message: expect.stringContaining('4.3 GB'),
  });
  await expect(requireRoom('/', MOST_FILE_BYTES + 1, free(1e15))).rejects.toMatchObject({ code: 'file-large' });
  // Nobody says how much is to come: it is counted then.
  await expect(requireRoom('/', undefined, free(0))).resolves.toBeUndefined();
  await expect(requireRoom('/tmp', 1)).resolves.toBeUndefined();
});

test('what is longer than it may be breaks off there', async () => {
  async function* parts(): AsyncGenerator<Uint8Array> {
    for (let n = 0; n < 4; n++) yield new Uint8Array(10);
  }
  let taken = 0;
  const take = async (most: number): Promise<void> => {
    taken = 0;
    for await (const part of withinSize(parts(), most)) taken += part.length;
  };
  await take(40);
  expect(taken).toBe(40);
  await expect(take(39)).rejects.toMatchObject({ code: 'file-large' });
  expect(taken).toBe(30);
});
