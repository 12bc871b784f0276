import { existsSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { DspError } from '@euphonos/dsp';
import { MediaError } from '@euphonos/media';
import { DirectoryStore } from './media-store/directory-store.js';
import { AppProblem } from './problems/app-problem.js';
import { answerTo } from './problems/problem.filter.js';
import { IntakeService } from './recordings/intake.service.js';

async function* bytes(...parts: string[]): AsyncGenerator<Uint8Array> {
  for (const part of parts) yield Buffer.from(part);
}

describe('the store', () => {
  const folder = mkdtempSync(join(tmpdir(), 'euphonos-store-'));
  const store = new DirectoryStore(folder);
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  // FIPS 180-4, worked example: SHA-256 of "abc".
  test('names bytes by their SHA-256, however they are split', async () => {
    const sha = 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad';
    expect(await store.put(bytes('abc'))).toEqual({ sha, sizeBytes: 3 });
    expect(await store.put(bytes('a', '', 'bc'))).toEqual({ sha, sizeBytes: 3 });
    const path = await store.workPath();
    writeFileSync(path, 'abc');
    expect(await store.adopt(path)).toEqual({ sha, sizeBytes: 3 });
    expect(existsSync(path)).toBe(false);
  });

  test('a stream that breaks leaves nothing', async () => {
    const broken = async function* (): AsyncGenerator<Uint8Array> {
      yield Buffer.from('half');
      throw new Error('broken off');
    };
    await expect(store.put(broken())).rejects.toThrow('broken off');
    expect(await store.sweep(new Set())).toBe(0);
  });

  test('sweeps what nothing refers to, once it is old enough', async () => {
    const kept = (await store.put(bytes('kept'))).sha;
    const loose = (await store.put(bytes('loose'))).sha;
    const fresh = (await store.put(bytes('fresh'))).sha;
    const old = new Date(Date.now() - 7_200_000);
    for (const sha of [kept, loose]) utimesSync(store.place(sha), old, old);
    expect(await store.sweep(new Set([kept]))).toBe(1);
    expect([kept, loose, fresh].map((sha) => existsSync(store.place(sha)))).toEqual([true, false, true]);
  });

  test('what was read a moment ago is still as old as it is; what came late, because it was long, is young', async () => {
    const old = new Date(Date.now() - 8 * 24 * 3_600_000);
    const read = (await store.put(bytes('read'))).sha;
    const unread = (await store.put(bytes('unread'))).sha;
    for (const sha of [read, unread]) utimesSync(store.place(sha), old, old);
    await store.path(read);
    // For want of room, what was not used goes; used is what was read.
    expect(await store.letGo([read, unread], 1e9)).toBe('unread'.length);
    await store.sweep(new Set());
    expect(existsSync(store.place(read))).toBe(false);
    const work = await store.workPath();
    writeFileSync(work, 'finished long before its hash was');
    utimesSync(work, old, old);
    const { sha } = await store.adopt(work);
    expect(await store.sweep(new Set())).toBe(0);
    await expect(store.path(sha)).resolves.toBe(store.place(sha));
  });
});

test.each([
  [new AppProblem(409, 'stale-revision', 'm'), 409, 'stale-revision'],
  [new DspError('parameter-range', 'm'), 422, 'parameter-range'],
  [Object.assign(new Error('m'), { code: 'ENOSPC' }), 507, 'disk-full'],
  [Object.assign(new Error('m'), { code: 'ECONNREFUSED' }), 503, 'database-down'],
  [new Error('Connection terminated unexpectedly'), 503, 'database-down'],
  [new Error('Client has encountered a connection error and is not queryable'), 503, 'database-down'],
  [Object.assign(new Error('write EPIPE'), { code: 'EPIPE' }), 503, 'database-down'],
  [Object.assign(new Error('terminating connection because of crash of another server process'), { code: '57P02' }), 503, 'database-down'],
])('an error becomes an answer: %s', (error, status, code) => {
  expect(answerTo(error)).toMatchObject({ status, code });
});

test.each([
  ['ENOSPC', 'disk-full'],
  ['EROFS', 'disk-read-only'],
  ['EACCES', 'disk-read-only'],
  ['EIO', 'disk-failed'],
  ['53100', 'database-full'],
])('%s of the machine is told as %s, with what is safe', (code, told) => {
  expect(answerTo(Object.assign(new Error('as the system says it'), { code }))).toMatchObject({
    status: 507,
    code: told,
    message: expect.stringMatching(/safe|backup/) as string,
  });
});

test('a disk that fills up while a file comes in is told as that, not as a broken connection', async () => {
  const keeper = { requireRoom: async () => undefined };
  const store = {
    put: async (bytes: AsyncIterable<Uint8Array>): Promise<never> => {
      // Leaving the loop closes the line to whoever sends.
      for await (const part of bytes) throw new MediaError('disk-full', `The disk is full at byte ${part.length}.`);
      throw new Error('Nothing came.');
    },
  };
  const quotas = { require: async () => undefined };
  const service = new IntakeService({} as never, {} as never, quotas as never, store as never, keeper as never);
  await expect(service.bringIn('take.wav', Readable.from([Buffer.from('x')]), 1)).rejects.toMatchObject({ code: 'disk-full' });
});
