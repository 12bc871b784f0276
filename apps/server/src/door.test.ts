import { readdirSync } from 'node:fs';
import { request, type IncomingHttpHeaders } from 'node:http';
import { answeredHosts, refusalOf } from './door.js';
import { TestServer } from './testing/test-server.js';

const hosts = answeredHosts(4680, 'studio.example, Desk.local:4680');
const page = (host: string | undefined, more: object = {}) =>
  refusalOf({ method: 'GET', host, origin: undefined, site: undefined, ...more }, hosts);

describe('who is answered', () => {
  test.each(['127.0.0.1:4680', 'localhost:4680', 'LOCALHOST:4680', '[::1]:4680', 'studio.example', 'desk.local:4680'])('%s', (host) => {
    expect(page(host)).toBeNull();
    expect(page(host, { method: 'POST', origin: `http://${host}`, site: 'same-origin' })).toBeNull();
  });

  test.each([
    'rebound.example',
    'rebound.example:4680',
    '127.0.0.1',
    '127.0.0.1:4681',
    'localhost.rebound.example:4680',
    '127.0.0.1:4680.rebound.example',
    'localhost:4680@rebound.example',
    '0.0.0.0:4680',
    '',
    undefined,
  ])('not %s, even if the page says that it is of there', (host) => {
    expect(page(host)).toMatchObject({ status: 421, code: 'foreign-host' });
    expect(page(host, { method: 'POST', origin: `http://${host}`, site: 'same-origin' })).toMatchObject({ status: 421 });
  });

  test.each([
    [{ origin: 'http://elsewhere.example' }],
    [{ origin: 'http://localhost:4680' }],
    [{ origin: 'null' }],
    [{ site: 'cross-site' }],
    [{ site: 'same-site' }],
    [{ origin: 'http://127.0.0.1:4680', site: 'cross-site' }],
  ])('changes from another page are refused: %j', (caller) => {
    for (const method of ['POST', 'PUT', 'PATCH', 'DELETE'])
      expect(page('127.0.0.1:4680', { method, ...caller })).toMatchObject({ status: 403, code: 'foreign-page' });
  });

  test('a program that is no browser changes things; a link from elsewhere opens the page', () => {
    expect(page('127.0.0.1:4680', { method: 'POST' })).toBeNull();
    expect(page('127.0.0.1:4680', { site: 'cross-site' })).toBeNull();
    expect(page('127.0.0.1:4680', { method: 'POST', site: 'none' })).toBeNull();
  });
});

describe('the running server', () => {
  let server: TestServer;
  beforeAll(async () => (server = await TestServer.create()));
  afterAll(() => server.close());

  const ask = (method: string, path: string, headers: Record<string, string>, body?: string) =>
    new Promise<{ status: number; headers: IncomingHttpHeaders; text: string }>((resolve, reject) => {
      const asked = request({ host: '127.0.0.1', port: server.port, method, path, headers }, (response) => {
        let text = '';
        response
          .on('data', (part) => (text += part))
          .on('end', () => resolve({ status: response.statusCode!, headers: response.headers, text }));
      });
      asked.on('error', reject).end(body);
    });

  test('answers a foreign name with 421 everywhere: API, upload, events, page, docs', async () => {
    const foreign = { host: 'rebound.example', origin: 'http://rebound.example' };
    for (const [method, path] of [
      ['GET', '/api/sessions'],
      ['POST', '/api/recordings'],
      ['PUT', '/api/sessions/x/document'],
      ['GET', '/api/events'],
      ['GET', '/api/docs'],
      ['GET', '/'],
      ['OPTIONS', '/api/sessions'],
    ] as const) {
      const { status, text } = await ask(method, path, { ...foreign, 'content-type': 'audio/wav' }, method === 'POST' ? 'RIFF' : undefined);
      expect([path, status, JSON.parse(text).code]).toEqual([path, 421, 'foreign-host']);
    }
    expect(readdirSync(server.media, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile())).toEqual([]);
  });

  test('refuses a change that a browser says is cross-site', async () => {
    const host = `127.0.0.1:${server.port}`;
    const { status, text } = await ask('POST', '/api/recordings', { host, 'sec-fetch-site': 'cross-site' }, 'RIFF');
    expect([status, JSON.parse(text).code]).toEqual([403, 'foreign-page']);
    expect((await ask('GET', '/api/sessions', { host: `localhost:${server.port}` })).status).toBe(200);
  });

  test('tells every browser to run only what is served here, to frame it nowhere, and to guess nothing', async () => {
    const host = `127.0.0.1:${server.port}`;
    for (const path of ['/', '/api/sessions', '/api/sessions/none', '/api/docs']) {
      const { headers } = await ask('GET', path, { host });
      const policy = String(headers['content-security-policy']);
      for (const rule of [
        "default-src 'self'",
        "script-src 'self' 'wasm-unsafe-eval'",
        "object-src 'none'",
        "frame-ancestors 'self'",
        "base-uri 'self'",
      ])
        expect(policy).toContain(rule);
      expect(policy).not.toMatch(/script-src [^;]*(unsafe-inline|\*|https?:)/);
      expect(headers).toMatchObject({
        'x-content-type-options': 'nosniff',
        'x-frame-options': 'SAMEORIGIN',
        'referrer-policy': 'no-referrer',
        'cross-origin-opener-policy': 'same-origin',
        'cross-origin-resource-policy': 'same-origin',
      });
      expect(headers).not.toHaveProperty('x-powered-by');
      expect(headers).not.toHaveProperty('access-control-allow-origin');
    }
  });

  test('an answer to what went wrong holds no path of this machine and no line of its program', async () => {
    const host = `127.0.0.1:${server.port}`;
    for (const path of [
      '/api/sessions/none',
      '/api/recordings/none/channels/x',
      '/api/covers/..%2f..%2fetc%2fpasswd',
      '/api/none',
      '/%00',
      '/..%2f..%2fpackage.json',
    ]) {
      const { status, text } = await ask('GET', path, { host });
      expect(status === 200 ? text : '').not.toContain('"workspaces"');
      expect(text).not.toMatch(/\/work\/|node_modules|at .*\.js:\d+|root:x:/);
    }
  });

  test('a file that says it is larger than any is refused before it comes', async () => {
    const host = `127.0.0.1:${server.port}`;
    const asked = await new Promise<{ status: number; text: string }>((resolve, reject) => {
      const headers = { host, 'content-type': 'application/octet-stream', 'content-length': String(2 ** 37) };
      const upload = request(
        { host: '127.0.0.1', port: server.port, method: 'POST', path: '/api/recordings?name=a.wav', headers },
        (response) => {
          let text = '';
          response
            .on('data', (part) => (text += part))
            .on('end', () => (upload.destroy(), resolve({ status: response.statusCode!, text })));
        },
      );
      upload.on('error', reject).write('RIFF');
    });
    expect([asked.status, JSON.parse(asked.text).code]).toEqual([413, 'file-large']);
  });
});
