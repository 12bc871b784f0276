import { randomUUID } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { TestServer } from './testing/test-server.js';

describe('bodies', () => {
  let server: TestServer;
  beforeAll(async () => (server = await TestServer.create()));
  afterAll(() => server.close());

  const send = async (method: string, path: string, body: BodyInit, headers: Record<string, string> = {}) => {
    const response = await fetch(`http://127.0.0.1:${server.port}${path}`, {
      method,
      headers: { 'content-type': 'application/json', ...headers },
      body,
    });
    return { status: response.status, ...((await response.json()) as { code?: string; message?: string; name?: string }) };
  };

  test('are read within the size of what their path takes', async () => {
    const text = (mebibytes: number): string => JSON.stringify({ name: 'x'.repeat(mebibytes << 20) });
    expect(await send('POST', '/api/productions', text(5))).toMatchObject({ status: 413, code: 'body-large' });
    expect(await send('POST', '/api/productions', text(3))).toMatchObject({ status: 400, code: 'request-invalid' });
    expect(await send('PUT', `/api/sessions/${randomUUID()}/document`, text(5))).toMatchObject({ status: 400, code: 'request-invalid' });
    expect(await send('PUT', `/api/sessions/${randomUUID()}/document`, text(65))).toMatchObject({ status: 413, code: 'body-large' });
    // Without a stated length it is counted as it comes.
    let left = 8;
    const unstated = new ReadableStream({
      pull: (controller) => (left-- > 0 ? controller.enqueue(new TextEncoder().encode(text(1))) : controller.close()),
    });
    const streamed = fetch(`http://127.0.0.1:${server.port}/api/productions`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: unstated,
      duplex: 'half',
    } as RequestInit);
    expect((await streamed).status).toBe(413);
  });

  test('that are deep, packed or no JSON are refused, and the server goes on', async () => {
    expect(await send('POST', '/api/productions', `{"name":${'['.repeat(1e6)}`)).toMatchObject({ status: 400, code: 'json-deep' });
    expect(await send('POST', '/api/productions', '{"name": "a",}')).toMatchObject({ status: 400, code: 'json-broken' });
    const packed = gzipSync(JSON.stringify({ name: 'x'.repeat(1 << 20) }));
    expect(await send('POST', '/api/productions', packed, { 'content-encoding': 'gzip' })).toMatchObject({
      status: 415,
      code: 'body-packed',
    });
    expect(await send('POST', '/api/productions', '', { 'content-type': 'text/plain' })).toMatchObject({
      status: 400,
      code: 'request-invalid',
    });
    expect(await send('POST', '/api/productions', JSON.stringify({ name: 'Held' }))).toMatchObject({ status: 201, name: 'Held' });
  });

  test('nothing in them becomes a part of what all objects are made of', async () => {
    const body = '{"name":"P","__proto__":{"admin":true},"constructor":{"prototype":{"admin":true}}}';
    for (const sent of [body, JSON.stringify({ name: 'Q' })]) {
      const made = await send('POST', '/api/productions', sent);
      expect([made.status, 'admin' in made]).toEqual([201, false]);
    }
  });
});
