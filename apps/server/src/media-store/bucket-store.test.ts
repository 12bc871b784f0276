import { createHash, randomBytes } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { MediaError } from '@euphonos/media';
import { scratchFolder } from '../../../../packages/media/src/testing/files.js';
import { ObjectStore } from '../testing/object-store.js';
import { BucketStore } from './bucket-store.js';
import type { Stored } from './media-store.js';

const files = scratchFolder();
let service: ObjectStore;

beforeAll(async () => void (service = await ObjectStore.create()));
afterAll(async () => {
  await service.close();
  files.remove();
});

const shaOf = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
const storeAt = (name: string, cacheBytes = 1e9): BucketStore => new BucketStore(files.path(name), service.settings(cacheBytes));
const put = (store: BucketStore, bytes: Buffer): Promise<Stored> =>
  store.put(
    (async function* () {
      for (let at = 0; at < bytes.length; at += 1 << 20) yield bytes.subarray(at, at + (1 << 20));
    })(),
  );
async function all(store: BucketStore): Promise<string[]> {
  const shas: string[] = [];
  for await (const { sha } of store.list()) shas.push(sha);
  return shas.sort();
}
const atHand = (name: string): number =>
  readdirSync(files.path(name), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((sum, { parentPath, name: file }) => sum + statSync(join(parentPath, file)).size, 0);

test('what one machine puts, in one piece or in parts, another one reads; the same bytes are there once', async () => {
  const [near, far] = [storeAt('near'), storeAt('far')];
  const small = randomBytes(1000);
  // More than two parts.
  const large = randomBytes(40 * 2 ** 20 + 7);
  expect(await put(near, small)).toEqual({ sha: shaOf(small), sizeBytes: 1000 });
  writeFileSync(files.path('large'), large);
  expect(await near.link(files.path('large'))).toEqual({ sha: shaOf(large), sizeBytes: large.length });
  const work = await far.workPath();
  writeFileSync(work, small);
  await far.adopt(work);
  for (const bytes of [small, large]) expect(shaOf(readFileSync(await far.path(shaOf(bytes))))).toBe(shaOf(bytes));
  expect(await all(far)).toEqual([shaOf(small), shaOf(large)].sort());
  await expect(far.path('0'.repeat(64))).rejects.toMatchObject({ code: 'file-missing' });
});

test('a line that breaks while bytes come or go is no loss: what is missing is sent and asked for again', async () => {
  const bytes = randomBytes(20 * 2 ** 20);
  service.line.breakAfter('there', 5 * 2 ** 20);
  const before = service.line.broken;
  await put(storeAt('sender'), bytes);
  expect(service.line.broken).toBe(before + 1);
  service.line.breakAfter('back', 6 * 2 ** 20);
  service.line.breakAfter('back', 9 * 2 ** 20);
  expect(shaOf(readFileSync(await storeAt('reader').path(shaOf(bytes))))).toBe(shaOf(bytes));
  expect(service.line.broken).toBe(before + 3);
});

test('what is at hand is held to its size; what is in use stays, and what went comes again', async () => {
  const store = storeAt('bounded', 5e6);
  const old = new Date(Date.now() - 3_600_000);
  const shas: string[] = [];
  for (let i = 0; i < 6; i++) {
    const { sha } = await put(store, randomBytes(2e6));
    shas.push(sha);
    utimesSync(await store.path(sha), old, old);
  }
  expect(atHand('bounded')).toBeLessThanOrEqual(7e6);
  await store.holding(async () => {
    const first = await store.path(shas[0]!);
    for (const sha of shas.slice(1)) await store.path(sha);
    // Used a moment ago: more than it is held to, and all of it there.
    expect(existsSync(first)).toBe(true);
  });
  expect(shaOf(readFileSync(await store.path(shas[0]!)))).toBe(shas[0]);
});

test('bytes that nothing refers to are swept by the clock of the service; what has just come once more is not', async () => {
  const store = storeAt('sweeper');
  const before = await all(store);
  const [kept, gone, again] = [randomBytes(10), randomBytes(11), randomBytes(12)];
  for (const bytes of [kept, gone, again]) await put(store, bytes);
  expect(await store.sweep(new Set())).toBe(0);
  service.age(7_200_000);
  await put(store, again);
  expect(await store.sweep(new Set([shaOf(kept), ...before]))).toBe(1);
  expect(await all(store)).toEqual([...before, shaOf(kept), shaOf(again)].sort());
});

test('damaged bytes are not given on, and a service that is away is told as that', async () => {
  const { sha } = await put(storeAt('here'), Buffer.from('whole'));
  const object = readdirSync(service.folder, { recursive: true, encoding: 'utf8' }).find(
    (name) => name.includes(sha.slice(2)) && name.includes('object'),
  );
  writeFileSync(join(service.folder, object!), 'other');
  const elsewhere = storeAt('elsewhere');
  await expect(elsewhere.path(sha)).rejects.toMatchObject({ code: 'store-away' });
  expect(atHand('elsewhere')).toBe(0);
  await service.line.cut();
  const error = await put(elsewhere, Buffer.from('new')).catch((failure: unknown) => failure);
  expect(error).toBeInstanceOf(MediaError);
  expect(error).toMatchObject({ code: 'store-away', message: expect.stringContaining('safe') as string });
  await service.line.mend();
  expect((await put(elsewhere, Buffer.from('new'))).sizeBytes).toBe(3);
});
