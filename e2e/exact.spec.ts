import { expect, test, type Page } from '@playwright/test';
import { join } from 'node:path';
import { bringIn, type Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { knownSound, levelDb, RATE_HZ, readSamples, writeWav } from './support/sounds.ts';
import { readTap, startTap, straight } from './support/tap.ts';

const SECONDS = 16;
const sound = knownSound(SECONDS);

interface Bench extends Window {
  euphonosWorkbench?: { player: { seek(frame: number): void; exact: boolean; knownFrames: number; play(): Promise<void>; stop(): void } };
}

const seek = (page: Page, seconds: number): Promise<void> =>
  page.evaluate((frame) => (window as unknown as Bench).euphonosWorkbench!.player.seek(frame), Math.round(seconds * RATE_HZ));
const isExact = (page: Page): Promise<boolean> => page.evaluate(() => (window as unknown as Bench).euphonosWorkbench!.player.exact);

/** Some seconds from a place, from the moment at which the monitor says that they are exact. */
async function hearFrom(page: Page, seconds: number): Promise<{ frame: number; samples: Float32Array }> {
  await readTap(page);
  await seek(page, seconds);
  await page.waitForTimeout(700);
  await expect.poll(() => isExact(page)).toBe(true);
  await readTap(page);
  await page.waitForTimeout(4500);
  return straight(await readTap(page));
}

async function rendered(page: Page, desk: Desk, name: string, what?: string): Promise<Float32Array> {
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.deliver(join(scratch, name), what);
  return readSamples(join(scratch, name));
}

const offDb = (heard: { frame: number; samples: Float32Array }, file: Float32Array): number => {
  // The last quarter of a second may already be on its way elsewhere.
  const length = Math.min(heard.samples.length - RATE_HZ / 4, file.length - heard.frame);
  expect(length).toBeGreaterThan(RATE_HZ);
  return levelDb(Float32Array.from({ length }, (_, n) => heard.samples[n]! - file[heard.frame + n]!));
};

test('tracked noise and a gate that holds: what is heard from anywhere is what is rendered, and until then it says so', async ({
  page,
}) => {
  const desk = await bringIn(page, address, writeWav('anywhere.wav', sound), SECONDS);
  await desk.open('Noise reduction');
  await page.getByRole('radio', { name: 'tracked' }).click();
  await desk.turn('Gate', true);
  await seek(page, 11);
  // A change is not known at once.
  await expect(page.locator('[data-not-exact]')).toBeVisible();
  await expect(page.locator('[data-not-exact]')).toHaveCount(0);
  await desk.play();
  await startTap(page);
  const [one, other] = [await hearFrom(page, 9.3), await hearFrom(page, 5.7)];
  const file = await rendered(page, desk, 'anywhere-out.wav');
  expect(offDb(one, file)).toBeLessThan(-90);
  expect(offDb(other, file)).toBeLessThan(-90);
});

test('noise reduction on the whole: the noise of both tracks together is taken, heard from anywhere as the mix is rendered', async ({
  page,
}) => {
  const both = new Float32Array(2 * sound.length);
  sound.forEach((x, n) => {
    both[2 * n] = x;
    // The other person says the same, at other times.
    both[2 * n + 1] = 0.6 * sound[(n + 10 * RATE_HZ) % sound.length]!;
  });
  const desk = await bringIn(page, address, writeWav('sum of two.wav', both, 2), SECONDS);
  for (const title of ['High-pass', 'Noise reduction']) await desk.turn(title, false);
  await page.getByRole('button', { name: 'Split into tracks' }).click();
  await page.getByRole('radio', { name: 'all together' }).click();
  await page.getByRole('spinbutton', { name: 'Level of channel 2' }).fill('-3');
  // A chain on the whole is there as soon as it has a treatment.
  await page.getByRole('radio', { name: /the whole/ }).click();
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Noise reduction/ }).press('Enter');
  const card = desk.treatment('Noise reduction');
  await expect(card).toContainText('No noise profile of the whole yet');
  await desk.select(0.1, 0.9);
  await card.getByRole('button', { name: 'Take the selection' }).click();
  await expect(card.locator('[data-profile=ready]')).toBeVisible();
  await expect(card.locator('[data-effect-of]')).toContainText(/−\d/);
  // What the whole remembers counts from the next start on: it is waited for.
  const known = (): Promise<boolean> =>
    page.evaluate(() => (window as unknown as Bench).euphonosWorkbench!.player.knownFrames === Infinity);
  await expect.poll(known).toBe(true);
  await desk.play();
  await startTap(page);
  const [one, other] = [await hearFrom(page, 6.3), await hearFrom(page, 3.7)];
  await desk.stop();
  const file = await rendered(page, desk, 'sum of two, out.wav', 'Render the mix of 2 tracks');
  expect(offDb(one, file)).toBeLessThan(-90);
  expect(offDb(other, file)).toBeLessThan(-90);
  const before = sound.map((x, n) => x + 10 ** (-3 / 20) * both[2 * n + 1]!);
  expect(levelDb(before, 0.2 * RATE_HZ, 0.8 * RATE_HZ) - levelDb(file, 0.2 * RATE_HZ, 0.8 * RATE_HZ)).toBeGreaterThan(8);
});

test('deep noise reduction is rendered in the background, heard from anywhere, and is what the file holds', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('deep.wav', sound), SECONDS);
  await desk.open('Noise reduction');
  await page.getByRole('radio', { name: 'tracked' }).click();
  await page.getByRole('button', { name: 'Finer settings' }).click();
  await page.getByRole('radio', { name: 'deep' }).click();
  await expect(desk.treatment('Noise reduction')).toContainText('Rendered in the background');
  await seek(page, 9);
  await expect(page.locator('[data-not-exact]')).toHaveCount(0);
  await desk.play();
  await startTap(page);
  const heard = await hearFrom(page, 9.3);
  const file = await rendered(page, desk, 'deep-out.wav');
  expect(offDb(heard, file)).toBeLessThan(-90);
  expect(levelDb(sound, RATE_HZ / 2, RATE_HZ) - levelDb(file, RATE_HZ / 2, RATE_HZ)).toBeGreaterThan(8);
});
