import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Browser, type Page } from '@playwright/test';
import type { SessionView, TakeView } from '@euphonos/contracts';
import { address, ProductServer, scratch } from './support/server.ts';

// The microphone before and while somebody speaks: Chromium's stand-in device plays a file of the demo's narrator, over and over.
const DEVICE_RATE_HZ = 44_100;
const heard = standIn(join(scratch, 'stand-in.wav'));

test.use({
  launchOptions: {
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-background-networking',
      '--autoplay-policy=no-user-gesture-required',
      '--use-fake-ui-for-media-stream',
      '--use-fake-device-for-media-stream',
      `--use-file-for-fake-audio-capture=${join(scratch, 'stand-in.wav')}`,
    ],
  },
});

/** A WAV of 16 bits: ten seconds of a room, twelve of keys in it, then somebody who talks. Returns its samples. */
function standIn(path: string): Int16Array {
  const pcm = execFileSync(
    'ffmpeg',
    [
      '-nostdin',
      '-v',
      'error',
      '-i',
      join(import.meta.dirname, '../demo/narrator.flac'),
      '-ac',
      '1',
      '-ar',
      String(DEVICE_RATE_HZ),
      '-f',
      's16le',
      '-',
    ],
    {
      maxBuffer: 1 << 28,
    },
  );
  const talk = new Int16Array(pcm.buffer.slice(pcm.byteOffset, pcm.byteOffset + pcm.length - (pcm.length % 2)));
  let state = 5;
  const next = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 31 - 1;
  const [room, keys] = [10 * DEVICE_RATE_HZ, 12 * DEVICE_RATE_HZ];
  const all = new Int16Array(room + keys + talk.length);
  // The narrator's own room: the quietest second and a half, over and over.
  const length = Math.round(1.5 * DEVICE_RATE_HZ);
  const loudness = (from: number): number => talk.subarray(from, from + length).reduce((sum, x) => sum + x * x, 0);
  let quietest = 0;
  for (let at = 0; at + length < talk.length; at += 4410) if (loudness(at) < loudness(quietest)) quietest = at;
  for (let n = 0; n < room + keys; n++) all[n] = talk[quietest + (n % length)]!;
  for (let at = room + 9000; at < room + keys - 4000; at += 9000 + Math.round(1500 * next()))
    for (let n = 0; n < 2400; n++) all[at + n]! += Math.round(32_767 * 0.02 * next() * Math.exp(-n / 300));
  all.set(talk, room + keys);
  const header = Buffer.alloc(44);
  header.write('RIFF', 0);
  header.writeUInt32LE(36 + all.byteLength, 4);
  header.write('WAVEfmt ', 8);
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(1, 20);
  header.writeUInt16LE(1, 22);
  header.writeUInt32LE(DEVICE_RATE_HZ, 24);
  header.writeUInt32LE(2 * DEVICE_RATE_HZ, 28);
  header.writeUInt16LE(2, 32);
  header.writeUInt16LE(16, 34);
  header.write('data', 36);
  header.writeUInt32LE(all.byteLength, 40);
  writeFileSync(path, Buffer.concat([header, Buffer.from(all.buffer)]));
  return all;
}

const listen = (page: Page, name: string) => page.locator(`[data-listen=${name}]`);
const enough = (page: Page, name: string) => expect(listen(page, name).getByText('enough')).toBeVisible();

async function open(page: Page, at = address): Promise<void> {
  await page.goto(`${at}/sound-check`);
  await page.getByRole('button', { name: 'Open O' }).click();
  await expect(page.getByText('echo, gain and suppression of the browser are off')).toBeVisible();
}
const recordedSeconds = async (page: Page): Promise<number> =>
  Number(await page.locator('[data-recorded]').getAttribute('data-recorded')) / DEVICE_RATE_HZ;
const recordFor = async (page: Page, seconds: number): Promise<void> => {
  await page.keyboard.press('r');
  await expect.poll(() => recordedSeconds(page)).toBeGreaterThan(seconds);
};
const json = async <Answer>(path: string, at = address): Promise<Answer> => (await (await fetch(`${at}/api/${path}`)).json()) as Answer;

/** Frames of what was recorded that are not, one after the other, what the device played: its samples are whole numbers of 16 bits. */
function differing(samples: Float32Array): number {
  const numbers = Array.from(samples, (x) => Math.round(x < 0 ? x * 32_768 : x * 32_767));
  const start = numbers.findIndex((x) => x !== 0);
  for (let at = 0; at < heard.length; at++) {
    let same = 0;
    while (same < 200 && heard[(at + same) % heard.length] === numbers[start + same]) same++;
    if (same === 200) return numbers.slice(start).filter((x, n) => x !== heard[(at + n) % heard.length]).length;
  }
  return numbers.length;
}
async function samplesOf(recordingId: string, at = address): Promise<Float32Array> {
  return new Float32Array(await (await fetch(`${at}/api/recordings/${recordingId}/channels/0`)).arrayBuffer());
}

test('listens, advice, a chain, heard live; a take as it came, in a session, rendered', async ({ page }) => {
  await open(page);
  await page.keyboard.press('1');
  await enough(page, 'silence');
  await page.keyboard.press('2');
  await enough(page, 'usual');
  await page.keyboard.press('3');
  await enough(page, 'speech');
  // What to change in the room, and a chain with thresholds of what was heard.
  await expect(page.locator('[data-advice=Words]')).toBeVisible();
  await expect(page.locator('[data-advice=Gate]')).toContainText('dBFS');
  for (const kind of ['high-pass', 'gate', 'compressor', 'limiter']) await expect(page.locator(`[data-treatment=${kind}]`)).toBeVisible();
  await expect(page.getByText(/^in 10\.0 ms \+ chain 1\d\.\d ms/)).toBeVisible();
  // What was just said, before and after.
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'after', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('x');
  await expect(page.getByRole('button', { name: 'before', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'Hear it H' }).click();
  await expect(page.getByRole('button', { name: 'Heard H' })).toBeVisible();
  // A take, with the ten seconds before the key, marked while it runs; the page is busy meanwhile.
  await page.keyboard.press('r');
  await expect.poll(() => recordedSeconds(page)).toBeGreaterThan(11);
  await page.evaluate(() => {
    for (const end = Date.now() + 2500; Date.now() < end;);
  });
  await page.keyboard.press('g');
  await expect.poll(() => recordedSeconds(page)).toBeGreaterThan(14);
  await page.keyboard.press('r');
  const line = page.locator('[data-take=landed]');
  await expect(line).toContainText('Take 1');
  await expect(line).toContainText('good');
  await line.getByRole('link', { name: 'Open in Treat' }).click();
  await expect(page.getByRole('region', { name: 'Gate', exact: true })).toBeVisible();
  const sessionId = /sessions\/([^/]+)/.exec(page.url())![1]!;
  const { document, recordings, revision } = await json<SessionView>(`sessions/${sessionId}`);
  const [track] = document!.tracks;
  expect(track!.chain.treatments.map(({ kind }) => kind)).toEqual(
    expect.arrayContaining(['high-pass', 'noise-reduction', 'gate', 'limiter']),
  );
  expect(track!.noise?.kind).toBe('kept');
  const gate = track!.chain.treatments.find(({ kind }) => kind === 'gate')!;
  expect(['words', 'talk']).toContain(gate['listens']);
  expect((gate['quiet'] as object[]).length).toBeGreaterThan(0);
  // On a busy machine the stand-in device's clock may jump, which is told as well.
  const names = document!.marks.map(({ name }) => name).filter((name) => !name.includes('missing'));
  expect(names).toEqual(['Take 1 · good', 'Take 1: good']);
  // As the device gave it, sample by sample.
  expect(differing(await samplesOf(recordings[0]!.id))).toBe(0);
  const started = await fetch(`${address}/api/sessions/${sessionId}/renders`, {
    method: 'POST',
    body: JSON.stringify({ revision }),
    headers: { 'content-type': 'application/json' },
  });
  expect(started.status).toBe(201);
  await expect.poll(async () => (await json<{ job: { state: string } }[]>(`sessions/${sessionId}/renders`))[0]!.job.state).toBe('done');
});

test('a page that is killed in the middle of a take loses half a second at most, and the next one brings it in', async ({
  page,
  context,
}) => {
  await open(page);
  await recordFor(page, 4);
  const before = await recordedSeconds(page);
  await page.close();
  const next = await context.newPage();
  await next.goto(`${address}/sound-check`);
  const left = next.locator('[data-left]');
  await expect(left).toContainText('was never ended');
  await left.getByRole('button', { name: 'Into a session' }).click();
  const line = next.locator('[data-take=landed]');
  await expect(line).toBeVisible();
  const [minutes, seconds] = /(\d+):(\d+\.\d)/
    .exec(await line.innerText())!
    .slice(1)
    .map(Number) as [number, number];
  expect(before - (60 * minutes + seconds)).toBeLessThan(0.5);
});

test('a server that is killed in the middle of a take: it goes on, and all of it is there when it is back', async ({ page }) => {
  const server = await ProductServer.create({ EUPHONOS_DEMO: 'none' });
  try {
    await open(page, server.address);
    await recordFor(page, 2);
    await server.kill('SIGKILL');
    await expect(page.getByText('The server does not answer.')).toBeVisible();
    await expect.poll(() => recordedSeconds(page)).toBeGreaterThan(6);
    await server.start();
    await page.keyboard.press('r');
    await expect(page.locator('[data-take=landed]')).toBeVisible();
    const { rows } = await json<{ rows: { id: string; name: string }[] }>('sessions', server.address);
    const { id } = rows.find(({ name }) => name.startsWith('Recorded'))!;
    const { recordings } = await json<SessionView>(`sessions/${id}`, server.address);
    const samples = await samplesOf(recordings[0]!.id, server.address);
    expect(samples.length).toBeGreaterThan(6 * DEVICE_RATE_HZ);
    expect(differing(samples)).toBe(0);
  } finally {
    await server.kill('SIGKILL');
  }
});

test('the simulated microphone: nobody needs one; headphones beside it are noticed, muted, and measured', async ({ page }) => {
  await page.goto(`${address}/sound-check`);
  await page.getByRole('combobox', { name: 'Device' }).selectOption('simulated');
  await page.getByRole('button', { name: 'Open O' }).click();
  await page.getByRole('checkbox', { name: /headphones lie beside/ }).check();
  await page.getByRole('button', { name: 'measure' }).click();
  // The air of the simulated room is 8 ms wide; the audio clock's quanta come on top.
  await expect(page.getByText(/measured round \d+\.\d ms/)).toBeVisible();
  const round = Number(/measured round (\d+\.\d) ms/.exec(await page.locator('aside').innerText())![1]);
  expect(round).toBeGreaterThan(8);
  expect(round).toBeLessThan(20);
  await page.keyboard.press('h');
  await expect(page.getByRole('alert').filter({ hasText: 'A loop at' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Hear it H' })).toBeVisible();
});

/** A page whose microphone behaves as `script` says. */
async function withMicrophone(browser: Browser, script: string): Promise<Page> {
  const page = await browser.newPage();
  await page.addInitScript(script);
  await page.goto(`${address}/sound-check`);
  return page;
}

test('no permission, no microphone, one that is unplugged in the middle of a take: said in words, and what was recorded is kept', async ({
  browser,
}) => {
  const refuses = (name: string) => `navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('', '${name}'));`;
  const denied = await withMicrophone(browser, refuses('NotAllowedError'));
  await denied.getByRole('button', { name: 'Open O' }).click();
  await expect(denied.getByRole('alert')).toContainText('may not use a microphone');
  const none = await withMicrophone(browser, refuses('NotFoundError'));
  await none.getByRole('button', { name: 'Open O' }).click();
  await expect(none.getByRole('alert')).toContainText('No microphone is connected');
  const keeps = `const open = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices);
    navigator.mediaDevices.getUserMedia = async (wish) => { const stream = await open(wish); window.unplug = () => stream.getTracks()[0].dispatchEvent(new Event('ended')); return stream; };`;
  const unplugged = await withMicrophone(browser, keeps);
  await unplugged.getByRole('button', { name: 'Open O' }).click();
  await expect(unplugged.getByText('nothing missing')).toBeVisible();
  await recordFor(unplugged, 2);
  await unplugged.evaluate(() => (window as unknown as { unplug(): void }).unplug());
  await expect(unplugged.getByRole('alert')).toContainText('What was recorded until then is kept');
  await expect(unplugged.locator('[data-take=landed]')).toBeVisible();
  const takes = await json<TakeView[]>('takes');
  expect(takes.filter(({ state }) => state === 'recording')).toEqual([]);
  for (const page of [denied, none, unplugged]) await page.close();
});
