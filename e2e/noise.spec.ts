import { expect, test, type Page } from '@playwright/test';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { scratch } from './support/server.ts';
import { levelDb, RATE_HZ, readSamples, writeWav } from './support/sounds.ts';

const root = join(import.meta.dirname, '..');
const address = process.env['EUPHONOS_E2E_ADDRESS']!;
const SECONDS = 16;
const narration = readSamples(join(root, 'demo/narrator.flac')).slice(0, SECONDS * RATE_HZ);
const gapDb = (samples: Float32Array): number => levelDb(samples, 0.3 * RATE_HZ, 2 * RATE_HZ);
const wordsDb = (samples: Float32Array): number => levelDb(samples, 3 * RATE_HZ, 8 * RATE_HZ);

/** Noise taken and voice lost as the chart tells them, dB. */
async function told(page: Page): Promise<{ takenDb: number; lostDb: number }> {
  const label = (await page.getByRole('img', { name: /^Trade-off/ }).getAttribute('aria-label'))!;
  const [taken, lost] = label.match(/[\d.]+|−[\d.]+/g)!.map((text) => Number(text.replace('−', '-')));
  return { takenDb: taken!, lostDb: lost! };
}

test('a passage is marked, the curve is read, the suggestion taken, and the file holds what was told', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('steady noise.wav', narration), SECONDS);
  for (const other of ['High-pass', 'Gate']) await desk.turn(other, false);
  await desk.open('Noise reduction');
  await desk.select(0.2, 2.1);
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  await expect(page.getByRole('img', { name: /^Trade-off/ })).toBeVisible();

  await desk.type('Reduction', '6');
  await expect.poll(async () => (await told(page)).takenDb).toBeLessThan(7);
  const shallow = await told(page);
  await page.keyboard.press('k');
  await expect.poll(async () => Number(await desk.ruler('Reduction').getAttribute('aria-valuenow'))).toBeGreaterThan(8);
  await expect.poll(async () => (await told(page)).takenDb).toBeGreaterThan(8);
  const deep = await told(page);
  expect(deep.lostDb).toBeGreaterThanOrEqual(shallow.lostDb);
  expect(deep.lostDb, 'hardly heard').toBeLessThanOrEqual(-18);

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.deliver(join(scratch, 'steady noise, out.wav'));
  const out = readSamples(join(scratch, 'steady noise, out.wav'));
  expect(out.length).toBe(narration.length);
  expect(Math.abs(gapDb(narration) - gapDb(out) - deep.takenDb), 'the gaps fall by what was told').toBeLessThan(2);
  expect(Math.abs(wordsDb(narration) - wordsDb(out)), 'the words stay').toBeLessThan(0.6);
});

test('without a passage the noise is tracked; by itself there is one control; both are undone', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('no passage.wav', narration), SECONDS);
  for (const other of ['High-pass', 'Gate']) await desk.turn(other, false);
  await desk.open('Noise reduction');
  await desk.type('Reduction', '18');
  await page.getByRole('radio', { name: 'tracked' }).click();
  await expect(page.getByRole('img', { name: /^Trade-off/ })).toBeVisible();
  await expect(desk.ruler('Threshold')).toBeVisible();
  await page.getByRole('radio', { name: 'by itself' }).click();
  await expect(desk.ruler('Threshold')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Finer settings' })).toHaveCount(0);
  await expect(desk.ruler('Reduction')).toHaveAttribute('aria-valuenow', '18');
  await page.keyboard.press('Control+z');
  await expect(desk.ruler('Threshold')).toBeVisible();

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.deliver(join(scratch, 'no passage, out.wav'));
  const out = readSamples(join(scratch, 'no passage, out.wav'));
  expect(levelDb(narration, RATE_HZ, 2 * RATE_HZ) - levelDb(out, RATE_HZ, 2 * RATE_HZ)).toBeGreaterThan(12);
  expect(Math.abs(wordsDb(narration) - wordsDb(out))).toBeLessThan(0.8);
});
