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

test('the store is a folder, or a bucket that is named with where in it and at whose address', () => {
  expect(read({ EUPHONOS_MEDIA: '/mnt/store' }).store).toEqual({ folder: '/mnt/store' });
  const bucket = { EUPHONOS_MEDIA: '/var/at-hand', EUPHONOS_STORE: 's3://recordings/sound', EUPHONOS_CACHE_GB: '2' };
  expect(read({ ...bucket, EUPHONOS_S3_ENDPOINT: 'https://objects.example' }).store).toEqual({
    folder: '/var/at-hand',
    bucket: { name: 'recordings', prefix: 'sound/', endpoint: 'https://objects.example', region: 'us-east-1', cacheBytes: 2e9 },
  });
  expect(read({ EUPHONOS_STORE: 's3://recordings', AWS_REGION: 'eu-north-1' }).store.bucket).toMatchObject({
    prefix: '',
    region: 'eu-north-1',
    cacheBytes: 50e9,
  });
  for (const given of ['recordings', 'https://objects.example/recordings', 's3://-'])
    expect(() => read({ EUPHONOS_STORE: given })).toThrow(/as s3:\/\/recordings/);
  expect(() => read({ EUPHONOS_STORE: 's3://recordings', EUPHONOS_S3_ENDPOINT: 'objects.example' })).toThrow(/as https:/);
  expect(() => read({ EUPHONOS_KEEP_FREE_GB: 'all' })).toThrow('EUPHONOS_KEEP_FREE_GB is "all"; it is a number of GB, as 4.');
});

test('who needs a second step, and how long parts of a render are', () => {
  expect(read()).toMatchObject({ secondStep: 'nobody', partSeconds: 600 });
  expect(read({ EUPHONOS_SECOND_STEP: 'owners', EUPHONOS_PART_SECONDS: '20' })).toMatchObject({ secondStep: 'owners', partSeconds: 20 });
  expect(() => read({ EUPHONOS_SECOND_STEP: 'yes' })).toThrow(/nobody, owners or everybody/);
  for (const given of ['', 'ten', '0', '1e9']) expect(() => read({ EUPHONOS_PART_SECONDS: given })).toThrow(/1 to 86400/);
});
