import { readConfig } from './config.js';

const read = (more: Readonly<Record<string, string>> = {}) => readConfig({ EUPHONOS_DATABASE_URL: 'postgres://x', ...more });

test('by oneself it listens on loopback, and nowhere else', () => {
  expect(read()).toMatchObject({ shared: false, listen: '127.0.0.1', publicUrl: 'http://127.0.0.1:4680', secureCookies: false });
  for (const address of ['0.0.0.0', '192.168.1.5', '::'])
    expect(() => read({ EUPHONOS_LISTEN: address })).toThrow(/without accounts .* EUPHONOS_SHARED=1/);
});

test('shared it listens where it is told, and answers to the address that people open', () => {
  const config = read({ EUPHONOS_SHARED: '1', EUPHONOS_LISTEN: '192.168.1.5', EUPHONOS_PUBLIC: 'https://studio.example' });
  expect(config).toMatchObject({ shared: true, listen: '192.168.1.5', publicUrl: 'https://studio.example', secureCookies: true });
  expect([...config.hosts]).toEqual(expect.arrayContaining(['127.0.0.1:4680', 'studio.example']));
  expect(read({ EUPHONOS_SHARED: '1', EUPHONOS_LISTEN: '192.168.1.5' }).publicUrl).toBe('http://192.168.1.5:4680');
});

test('an address that is none is told with what it should be', () => {
  for (const given of ['studio.example', 'ftp://studio.example', 'https://studio.example/under/a/path'])
    expect(() => read({ EUPHONOS_SHARED: '1', EUPHONOS_PUBLIC: given })).toThrow(/as https:\/\/studio\.example/);
});
