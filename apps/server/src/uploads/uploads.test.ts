import { createHash, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { SessionView } from '@euphonos/contracts';
import { Upload } from 'tus-js-client';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { sharedServer, type Person } from '../testing/shared-server.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
let bytes: Buffer;
beforeAll(() => {
  writeFloatWav(files.path('in.wav'), noise(-40, 20, 3));
  bytes = readFileSync(files.path('in.wav'));
});
afterAll(() => files.remove());

const TUS = { 'tus-resumable': '1.0.0' };
type Ask = (path: string, init: RequestInit) => Promise<Response>;

async function begin(ask: Ask, sizeBytes: number): Promise<{ status: number; id: string; body: string }> {
  const response = await ask('uploads', { method: 'POST', headers: { ...TUS, 'upload-length': String(sizeBytes) } });
  return { status: response.status, id: response.headers.get('location')?.split('/').at(-1) ?? '', body: await response.text() };
}
const offsetOf = async (ask: Ask, id: string): Promise<number> =>
  Number((await ask(`uploads/${id}`, { method: 'HEAD', headers: TUS })).headers.get('upload-offset'));
const part = (ask: Ask, id: string, offset: number, body: Uint8Array, signal?: AbortSignal): Promise<Response> =>
  ask(`uploads/${id}`, {
    method: 'PATCH',
    headers: { ...TUS, 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
    body: body as BodyInit,
    ...(signal ? { signal } : {}),
  });
const land = async (ask: Ask, id: string, query = '') => {
  const response = await ask(`recordings?name=ferry.wav&upload=${id}${query}`, { method: 'POST' });
  return {
    status: response.status,
    body: (await response.json()) as { sessionId: string; recordingId: string; code?: string; data?: object },
  };
};

describe('by oneself', () => {
  let server: TestServer;
  let ask: Ask;
  beforeAll(async () => {
    server = await TestServer.create();
    ask = (path, init) => server.fetch(path, init);
  });
  afterAll(() => server.close());

  test('a file goes on where it was after a killed server, is whole to the bit, and is there once', async () => {
    const { id } = await begin(ask, bytes.length);
    const half = Math.floor(bytes.length / 2);
    expect((await part(ask, id, 0, bytes.subarray(0, half))).status).toBe(204);
    await server.end('SIGKILL');
    await server.start();
    expect(await offsetOf(ask, id)).toBe(half);
    const early = await land(ask, id);
    expect([early.status, early.body.code, early.body.data]).toEqual([409, 'upload-incomplete', { offset: half }]);
    expect((await part(ask, id, half, bytes.subarray(half))).status).toBe(204);
    // Whole, and killed before it was taken in.
    await server.end('SIGKILL');
    await server.start();
    const both = await Promise.all([land(ask, id), land(ask, id)]);
    const again = await land(ask, id);
    expect(both.map(({ status }) => status)).toEqual([201, 201]);
    expect([both[1]!.body, again.body]).toEqual([both[0]!.body, both[0]!.body]);
    const { rows } = await server.sql.query('SELECT original_sha, size_bytes::int FROM recording');
    expect(rows).toEqual([{ original_sha: createHash('sha256').update(bytes).digest('hex'), size_bytes: bytes.length }]);
    const session = await until(
      () => server.json<SessionView>('GET', `sessions/${again.body.sessionId}`).then(({ body }) => body),
      ({ document }) => document !== null,
    );
    expect(session.recording.facts!.lengthFrames).toBe(20 * 48_000);
    expect((await ask(`uploads/${id}`, { method: 'HEAD', headers: TUS })).status).toBe(404);
  });

  test('a line that breaks in the middle of a part loses none of what came', async () => {
    const { id } = await begin(ask, bytes.length);
    let sent = 0;
    const slow = new ReadableStream<Uint8Array>({
      async pull(controller) {
        if (sent >= 1 << 20) return void controller.error(new Error('the cable'));
        controller.enqueue(new Uint8Array(bytes.subarray(sent, sent + (1 << 16))));
        sent += 1 << 16;
        await new Promise((resolve) => setTimeout(resolve, 2));
      },
    });
    await ask(`uploads/${id}`, {
      method: 'PATCH',
      headers: { ...TUS, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
      body: slow,
      duplex: 'half',
    } as RequestInit).catch(() => undefined);
    const there = await until(
      () => offsetOf(ask, id),
      (offset) => offset > 0,
    );
    expect(there).toBeLessThanOrEqual(1 << 20);
    expect((await part(ask, id, there, bytes.subarray(there))).status).toBe(204);
    const { body } = await land(ask, id);
    const { rows } = await server.sql.query('SELECT original_sha FROM recording WHERE id = $1', [body.recordingId]);
    expect(rows[0].original_sha).toBe(createHash('sha256').update(bytes).digest('hex'));
  });

  test('another program that speaks the protocol brings its file in, in parts', async () => {
    const url = await new Promise<string>((resolve, reject) => {
      const upload = new Upload(bytes, {
        endpoint: `http://127.0.0.1:${server.port}/api/uploads`,
        chunkSize: 1 << 20,
        uploadDataDuringCreation: true,
        onError: reject,
        onSuccess: () => resolve(upload.url!),
      });
      upload.start();
    });
    expect((await land(ask, url.split('/').at(-1)!)).status).toBe(201);
  });

  test('what is too large, or read instead of sent, is refused; a part at the wrong place as well', async () => {
    expect((await begin(ask, 65 * 2 ** 30)).status).toBe(413);
    const { id } = await begin(ask, 1000);
    expect((await ask(`uploads/${id}`, { headers: TUS })).status).toBe(405);
    expect((await part(ask, id, 500, bytes.subarray(0, 100))).status).toBe(409);
    expect((await part(ask, id, 0, bytes.subarray(0, 2000))).status).not.toBe(204);
    expect((await land(ask, randomUUID())).body.code).toBe('upload-gone');
    for (const strange of ['..%2F..%2Fetc', 'x', '%00'])
      expect((await ask(`uploads/${strange}`, { method: 'HEAD', headers: TUS })).status).toBeGreaterThanOrEqual(400);
    expect((await ask(`uploads/${id}`, { method: 'DELETE', headers: TUS })).status).toBe(204);
  });
});

test('in a studio a file on its way is of whoever sends it', async () => {
  const { server, owner } = await sharedServer();
  try {
    const [ebba, sten, lio] = [
      await owner.invites('Ebba', 'engineer'),
      await owner.invites('Sten', 'engineer'),
      await owner.invites('Lio', 'listener'),
    ];
    const asks =
      (person: Person): Ask =>
      (path, init) =>
        person.fetch(path, init);
    const { id, status } = await begin(asks(ebba), bytes.length);
    expect(status).toBe(201);
    expect((await begin(asks(lio), 1000)).status).toBe(403);
    expect((await begin((path, init) => server.fetch(path, init), 1000)).status).toBe(401);
    expect((await ebba.fetch('uploads', { method: 'POST', headers: { ...TUS, 'upload-length': '9' } }, 'another token')).status).toBe(403);
    expect((await part(asks(sten), id, 0, bytes)).status).toBe(404);
    expect((await part(asks(ebba), id, 0, bytes)).status).toBe(204);
    expect((await land(asks(sten), id)).status).toBe(404);
    const { body } = await land(asks(ebba), id);
    expect((await land(asks(sten), id)).status).toBe(404);
    expect((await sten.json('GET', `sessions/${body.sessionId}`)).status).toBe(404);
    await owner.json('PATCH', `people/${ebba.id}`, { mostBytes: bytes.length + 100 });
    const full = await begin(asks(ebba), bytes.length);
    expect([full.status, (JSON.parse(full.body) as { code: string }).code]).toEqual([507, 'quota-person']);
  } finally {
    await server.close();
  }
});
