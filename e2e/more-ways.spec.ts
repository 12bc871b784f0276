import { expect, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { bringIn, Desk } from './support/desk.ts';
import { address, ProductServer, scratch } from './support/server.ts';
import { knownSound, levelDb, RATE_HZ, readSamples, toneDb, writeWav } from './support/sounds.ts';
import { readTap, startTap } from './support/tap.ts';

const sound = knownSound(10);

test('a file is dropped on the page', async ({ page }) => {
  await page.goto(address);
  const bytes = readFileSync(writeWav('dropped.wav', sound)).toString('base64');
  const transfer = await page.evaluateHandle((text) => {
    const data = new DataTransfer();
    data.items.add(new File([Uint8Array.from(atob(text), (sign) => sign.charCodeAt(0))], 'dropped here.wav', { type: 'audio/wav' }));
    return data;
  }, bytes);
  await page.dispatchEvent('main', 'dragover', { dataTransfer: transfer });
  await expect(page.getByText('Let go: it is brought in.')).toBeVisible();
  await page.dispatchEvent('main', 'drop', { dataTransfer: transfer });
  await expect(page.getByRole('listitem').filter({ hasText: 'dropped here' }).getByText('Noise floor')).toBeVisible();
});

test('a render is cancelled, and another one is made', async ({ page }) => {
  const long = join(scratch, 'long take.wav');
  execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-stream_loop',
    '29',
    '-i',
    writeWav('ten.wav', sound),
    '-c:a',
    'pcm_s16le',
    long,
  ]);
  const desk = await bringIn(page, address, long, 300);
  await desk.turn('Hum notch', true);
  await desk.saved();
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('button', { name: 'Render the whole recording' }).click();
  await expect(page.getByRole('progressbar', { name: 'Rendering' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Cancelled; nothing was written.')).toBeVisible();
  await expect(page.getByRole('link', { name: /Download/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Render the whole recording' }).click();
  await expect(page.locator('[data-job=done] [data-line]')).toHaveCount(8);
});

test('the page is closed while the server is away: the work is there the next time', async ({ page }) => {
  const server = await ProductServer.create({ EUPHONOS_DEMO: 'none' });
  try {
    const desk = await bringIn(page, server.address, writeWav('closed.wav', sound), 10);
    const session = page.url();
    await server.kill('SIGKILL');
    await desk.turn('Gate', true);
    await expect(page.getByText('Not saved yet')).toBeVisible();
    await page.goto('about:blank');
    await server.start();
    await page.goto(session);
    await expect(page.getByRole('switch', { name: 'Gate on' })).toHaveAttribute('aria-checked', 'true');
    await desk.saved();
    await page.evaluate(() => localStorage.clear());
    await page.reload();
    await expect(page.getByRole('switch', { name: 'Gate on' })).toHaveAttribute('aria-checked', 'true');
  } finally {
    await server.kill();
  }
});

test('of a recording with many channels the two that are wanted are heard', async ({ page }) => {
  // Channel n is a tone of n × 100 Hz.
  const tones = Float32Array.from(
    { length: 5 * 6 * RATE_HZ },
    (_, i) => 0.1 * Math.sin((2 * Math.PI * 100 * ((i % 6) + 1) * Math.floor(i / 6)) / RATE_HZ),
  );
  const path = join(scratch, 'six channels.wav');
  const raw = writeWav('six.raw.wav', tones);
  execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-f',
    'f32le',
    '-ar',
    String(RATE_HZ),
    '-ac',
    '6',
    '-i',
    `${raw}.raw`,
    '-c:a',
    'pcm_f32le',
    path,
  ]);
  await bringIn(page, address, path, 5);
  await page.getByRole('combobox', { name: 'Channels used' }).selectOption('4');
  const desk = new Desk(page, 5);
  await desk.saved();
  await page.locator('body').press('1');
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(900);
  const { samples } = await readTap(page);
  await desk.stop();
  const crossings = samples.subarray(4800, 24_000).reduce((count, x, n, all) => count + (n > 0 && all[n - 1]! < 0 && x >= 0 ? 1 : 0), 0);
  expect(crossings).toBeGreaterThan(195);
  expect(crossings).toBeLessThan(205);
});

test('in stereo each side is treated with a profile of its own', async ({ page }) => {
  const left = knownSound(8);
  // The right side is 12 dB softer, noise and words: the left side's profile would take its words for noise.
  const stereo = Float32Array.from({ length: left.length * 2 }, (_, i) => (i % 2 ? 0.25 : 1) * left[i >> 1]!);
  const desk = await bringIn(page, address, writeWav('both sides.wav', stereo, 2), 8);
  await desk.turn('High-pass', false);
  await desk.select(0.1, 1.3);
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.deliver(join(scratch, 'both sides out.wav'));
  const out = readSamples(join(scratch, 'both sides out.wav'));
  const side = (offset: number): Float32Array => out.filter((_, i) => i % 2 === offset);
  for (const [offset, gainDb] of [
    [0, 0],
    [1, -12.04],
  ] as const) {
    expect(levelDb(side(offset), 9600, 62_400) - gainDb, 'gap').toBeLessThan(levelDb(left, 9600, 62_400) - 8);
    expect(Math.abs(levelDb(side(offset), 300_000, 380_000) - gainDb - levelDb(left, 300_000, 380_000)), 'words').toBeLessThan(1);
  }
});

test('under a high-pass what is removed holds no voice, and the lanes add up', async ({ page }) => {
  const sound = knownSound(10);
  const desk = await bringIn(page, address, writeWav('below the voice.wav', sound), 10);
  await page.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('menuitem', { name: /^High-pass/ }).click();
  await desk.saved();
  const heard: Record<string, Float32Array> = {};
  for (const [key, lane] of [
    ['1', 'source'],
    ['2', 'removed'],
  ] as const) {
    await page.locator('body').press('Home');
    await page.locator('body').press(key);
    await desk.play();
    await startTap(page);
    await page.waitForTimeout(9000);
    heard[lane] = (await readTap(page)).samples;
    await desk.stop();
  }
  // What both hold: on a busy machine less than was waited for.
  const to = Math.min(8 * RATE_HZ, heard['source']!.length, heard['removed']!.length);
  expect(to).toBeGreaterThan(5 * RATE_HZ);
  // The words' own frequencies: there in the source, 30 dB and more lower in what is removed; the hum of 50 Hz is there in both.
  for (const hz of [220, 660, 1980]) {
    const [source, removed] = [toneDb(heard['source']!, hz, 4800, to), toneDb(heard['removed']!, hz, 4800, to)];
    expect(source).toBeGreaterThan(-45);
    expect(source - removed).toBeGreaterThan(hz < 240 ? 25 : 30);
  }
  expect(toneDb(heard['source']!, 50, 4800, to) - toneDb(heard['removed']!, 50, 4800, to)).toBeLessThan(3);
});
