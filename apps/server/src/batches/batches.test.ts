import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BatchRow, BatchView, SessionView } from '@euphonos/contracts';
import { defaultTreatment } from '@euphonos/dsp';
import { chainToFile, requireFileSpec, targets } from '@euphonos/engine';
import { joined, mixed, noise, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { ebur128, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});

/** Somebody who talks and pauses in a room, each another. */
function person(name: string, n: number, roomDbfs: number): Buffer {
  const talk = voice(2.5, 100 + 17 * n, 5 + n);
  const full = 0.25 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  const words = talk.map((x) => full * x);
  writeFloatWav(files.path(name), mixed(joined(silence(1.2), words, silence(1.1), words), noise(roomDbfs, 7.3, 30 + n)));
  return readFileSync(files.path(name));
}
const put = (batchId: string, name: string, bytes: Buffer) =>
  server.fetch(`recordings?name=${encodeURIComponent(name)}&batch=${batchId}`, { method: 'POST', body: new Uint8Array(bytes) });
const view = async (id: string): Promise<BatchView> => (await server.json<BatchView>('GET', `batches/${id}`)).body;
const through = (id: string, count: number): Promise<BatchView> =>
  until(
    () => view(id),
    ({ items }) => items.length === count && items.every(({ step }) => step === 'done' || step === 'failed'),
  );
const target = { ...targets[0]!, noiseFloorDbfs: -58, file: requireFileSpec({ format: 'flac' }) };

test('each by itself, as its survey suggests: two broken ones do not stop the rest, nor does a kill -9', async () => {
  const { id } = (await server.json<BatchView>('POST', 'batches', { name: 'Chapter by chapter', target })).body;
  for (const n of [1, 2, 3, 4]) expect((await put(id, `chapter ${n}.wav`, person(`c${n}.wav`, n, -48 - 2 * n))).status).toBe(201);
  await put(id, 'notes.wav', Buffer.from('these are words and no sound at all'));
  await put(id, 'half.flac', Buffer.from('fLaC and then nothing'));
  expect((await put(id, 'empty.wav', Buffer.alloc(0))).status).toBe(422);
  await until(
    () => view(id),
    ({ items }) => items.some(({ step }) => step === 'treating' || step === 'rendering'),
  );
  await server.end('SIGKILL');
  await server.start();
  const { items } = await through(id, 6);
  expect(items.map(({ fileName, step }) => [fileName, step])).toEqual([
    ...[1, 2, 3, 4].map((n) => [`chapter ${n}.wav`, 'done']),
    ['notes.wav', 'failed'],
    ['half.flac', 'failed'],
  ]);
  for (const { problem } of items.slice(4)) expect(problem).toMatch(/No sound was found|cannot be read|broken/);
  for (const item of items.slice(0, 4)) {
    const { renderId, resultName, noiseFloorDbfs, integratedLufs } = item;
    expect(resultName).toBe(item.fileName.replace('.wav', ' (cleaned).flac'));
    const path = files.path(resultName!);
    writeFileSync(path, Buffer.from(await (await server.fetch(`renders/${renderId}/file`)).arrayBuffer()));
    expect(Math.abs(ebur128(path).integratedLufs + 16)).toBeLessThanOrEqual(0.15);
    expect(Math.abs(integratedLufs! + 16)).toBeLessThanOrEqual(0.1);
    // Against the words the room is lower by what is suggested, nearly.
    const was = ebur128(files.path(item.fileName.replace('chapter ', 'c'))).integratedLufs;
    expect(noiseFloorDbfs[1]! - integratedLufs!).toBeLessThan(noiseFloorDbfs[0]! - was - 6);
    const session = (await server.json<SessionView>('GET', `sessions/${item.sessionId}`)).body;
    expect(session.document!.tracks[0]!.chain.treatments.map(({ kind }) => kind)).toContain('noise-reduction');
    expect(session.document!.tracks[0]!.noise).toMatchObject({ kind: 'passages' });
  }
  const { rows } = await server.sql.query('SELECT count(*)::int AS renders FROM render');
  expect(rows).toEqual([{ renders: 4 }]);
  const [row] = (await server.json<BatchRow[]>('GET', 'batches')).body;
  expect(row).toMatchObject({ name: 'Chapter by chapter', all: 6, done: 4, failed: 2 });

  // Heard and good; once more from the start; the list goes, the sessions stay.
  const [first, second] = items;
  const heard = await server.json<BatchView>('PATCH', `batches/${id}`, { sessionIds: [first!.sessionId], accepted: true });
  expect(heard.body.items.map(({ accepted }) => accepted)).toEqual([true, false, false, false, false, false]);
  await server.json('PATCH', `batches/${id}`, { sessionIds: [second!.sessionId], again: true });
  const again = (await through(id, 6)).items[1]!;
  expect(again.renderId).not.toBe(second!.renderId);
  expect((await server.json('DELETE', `batches/${id}`)).status).toBe(204);
  expect((await server.json('GET', `batches/${id}`)).status).toBe(404);
  expect((await server.json('GET', `sessions/${first!.sessionId}`)).status).toBe(200);
});

test('a watched folder: what is put in, and lies still, is cleaned by one chain, and its result appears beside it', async () => {
  const chain = chainToFile({ treatments: [{ ...defaultTreatment('high-pass'), id: 't1' }] }, 'Only the rumble');
  const body = { name: 'Drop: in/here', target: { ...target, noiseFloorDbfs: null }, chain, watching: true };
  const { id, folder, chainName } = (await server.json<BatchView>('POST', 'batches', body)).body;
  expect(chainName).toBe('Only the rumble');
  const path = join(server.media, 'inbox', folder!);
  mkdirSync(path, { recursive: true });
  writeFileSync(join(path, 'take 1.wav'), person('t1.wav', 7, -60));
  writeFileSync(join(path, 'readme.txt'), 'not a sound');
  const { items } = await through(id, 1);
  expect(items[0]).toMatchObject({ fileName: 'take 1.wav', step: 'done', needsEar: [] });
  await until(
    async () => readdirSync(join(path, 'done')),
    (names) => names.includes('take 1 (cleaned).flac'),
  );
  expect(readdirSync(path).sort()).toEqual(['done', 'readme.txt', 'taken']);
  expect(readdirSync(join(path, 'taken'))).toEqual(['take 1.wav']);
  expect(folder).toMatch(/^Drop-inhere-[0-9a-f]{8}$/);
  // Somebody removed it: it is there again, and goes on.
  rmSync(path, { recursive: true });
  await until(
    async () => existsSync(join(path, 'done')),
    (there) => there,
  );
  writeFileSync(join(path, 'take 2.wav'), person('t2.wav', 8, -60));
  const second = (await through(id, 2)).items[1]!;
  expect(second).toMatchObject({ fileName: 'take 2.wav', step: 'done' });
  const results = (): string[] => readdirSync(join(path, 'done')).sort();
  await until(
    async () => results(),
    (names) => names.includes('take 2 (cleaned).flac'),
  );
  // Killed between taking in and putting away, and before its result was put out: it is not taken twice, and the result comes.
  await server.end('SIGKILL');
  writeFileSync(join(path, 'take 2.wav'), readFileSync(join(path, 'taken', 'take 2.wav')));
  rmSync(join(path, 'done', 'take 2 (cleaned).flac'));
  await server.sql.query('UPDATE batch_item SET put_out = NULL WHERE session_id = $1', [second.sessionId]);
  await server.start();
  await until(
    async () => [...results(), ...readdirSync(path)],
    (names) => names.includes('take 2 (cleaned).flac') && !names.includes('take 2.wav'),
  );
  expect((await view(id)).items).toHaveLength(2);
});

test('what cannot be is refused: a strange batch, chain or target', async () => {
  expect((await put('11111111-1111-4111-8111-111111111111', 'x.wav', Buffer.from('x'))).status).toBe(404);
  expect((await server.json('POST', 'batches', { name: '', target })).status).toBe(400);
  expect(await server.json('POST', 'batches', { name: 'a', target: { ...target, toleranceLu: 99 } })).toMatchObject({ status: 422 });
  expect((await server.json('POST', 'batches', { name: 'a', target, chain: { treatments: 7 } })).status).toBe(422);
});
