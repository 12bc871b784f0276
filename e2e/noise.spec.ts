import { expect, test, type Page } from '@playwright/test';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, RATE_HZ, readSamples, writeWav } from './support/sounds.ts';

const root = join(import.meta.dirname, '..');
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
  await expect(desk.treatment('Noise reduction').getByRole('slider')).toHaveCount(1);
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

test('passages are found, stepped through, heard, and two of them feed one profile', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('found passages.wav', narration), SECONDS);
  await desk.open('Noise reduction');
  await expect(page.getByText(/with noise alone found/)).toBeVisible();
  await page.keyboard.press('c');
  const candidate = page.locator('[data-candidate]');
  await expect(candidate).toHaveText(/^1 of \d+ found: \d\.\d\d s at −\d+\.\d dBFS, steady within \d\.\d dB/);
  await expect(page.locator('[data-judgement=clean]')).toBeVisible();
  await page.keyboard.press('h');
  await expect
    .poll(() =>
      page.evaluate(() => (window as unknown as { euphonosWorkbench: { player: { status: string } } }).euphonosWorkbench.player.status),
    )
    .toBe('playing');
  await page.keyboard.press('h');
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  await page.keyboard.press('c');
  await page.keyboard.press('c');
  await expect(candidate).toHaveText(/^2 of/);
  await page.keyboard.press('Shift+N');
  await expect(page.locator('[data-noise-passage]')).toHaveCount(2);
  await page.keyboard.press('f');
  await page.getByRole('button', { name: 'Drop noise passage 1' }).click();
  await expect(page.locator('[data-noise-passage]')).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-noise-passage]')).toHaveCount(2);
});

test('a profile is kept, downloaded, read back, compared, and serves another session; a point of its curve is dragged', async ({
  page,
}, info) => {
  const desk = await bringIn(page, address, writeWav('kept room.wav', narration), SECONDS);
  await desk.open('Noise reduction');
  await desk.select(0.2, 2.1);
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  await page.getByRole('button', { name: 'Profiles' }).click();
  await page.getByLabel('Name of the profile').fill('Tide room');
  await page.getByRole('button', { name: 'Keep the present profile' }).click();
  const kept = page.locator('[data-profile-line="Tide room"]');
  await expect(kept).toContainText('Of this session');
  const [download] = await Promise.all([page.waitForEvent('download'), kept.getByRole('link', { name: 'Download Tide room' }).click()]);
  const file = info.outputPath('Tide room.noise.json');
  await download.saveAs(file);
  const json = JSON.parse(readFileSync(file, 'utf8')) as { name: string };
  expect(json.name).toBe('Tide room');
  writeFileSync(file, JSON.stringify({ ...json, name: 'Tide room again' }));
  await page.getByLabel('Profile file').setInputFiles(file);
  await page.locator('[data-profile-line="Tide room again"]').getByRole('button', { name: 'Compare' }).click();
  await page.getByRole('radio', { name: 'Noise over frequency' }).click();
  await expect(page.locator('[data-difference]')).toHaveText(/^The same noise as “Tide room again”/);

  const plot = page.locator('[data-curve-plot]');
  const box = (await plot.boundingBox())!;
  const points = (await plot.locator('polyline').getAttribute('points'))!
    .split(' ')
    .map((point) => point.split(',').map(Number) as [number, number]);
  const [x, y] = [box.x + points[70]![0], box.y + points[70]![1]];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + 6);
  await page.mouse.move(x, y + 12);
  await page.mouse.up();
  await expect(page.getByText(/\d+ Hz: \d+(\.\d)? dB more, \d+\.\d dB in all/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-curve-point]')).toHaveCount(0);

  await bringIn(page, address, writeWav('other day.wav', narration), SECONDS);
  await desk.open('Noise reduction');
  await page.getByRole('button', { name: 'Profiles' }).click();
  await kept.getByRole('button', { name: 'Use' }).click();
  await expect(page.locator('[data-profile=ready]')).toContainText('Tide room');
  await expect
    .poll(async () => Number((await page.locator('[data-telling=result]').textContent())!.replace('−', '-').match(/-[\d.]+/)![0]))
    .toBeLessThan(-55);
  await desk.saved();
  await page.getByRole('button', { name: 'Profiles' }).click();
  await kept.getByRole('button', { name: 'Delete Tide room', exact: true }).click();
  await expect(page.getByText(/is used by "other day"; nothing was deleted/)).toBeVisible();
});

test('what remains in a box is reduced by itself, and the file holds it', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('second pass.wav', narration), SECONDS);
  for (const other of ['High-pass', 'Gate']) await desk.turn(other, false);
  await desk.open('Noise reduction');
  await desk.select(0.2, 2.1);
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  const box = (await page.locator('[data-lane=source]').boundingBox())!;
  const x = (seconds: number): number => box.x + (seconds / SECONDS) * box.width;
  await page.mouse.move(x(0.3), box.y + box.height * 0.3);
  await page.mouse.down();
  await page.mouse.move(x(1), box.y + box.height * 0.5);
  await page.mouse.move(x(1.9), box.y + box.height * 0.98);
  await page.mouse.up();
  const gap = async (): Promise<number> =>
    Number((await page.locator('[data-telling=result]').textContent())!.replace('−', '-').match(/-[\d.]+/)![0]);
  await page.getByRole('button', { name: 'Second pass here' }).click();
  await expect(desk.treatment('Spots')).toContainText('1 spot');
  await expect.poll(gap).toBeLessThan(-50);
  await page.getByRole('link', { name: /Hand over/ }).click();
  const path = join(scratch, 'second pass, out.wav');
  await desk.deliver(path);
  const out = readSamples(path);
  const span = (from: number, to: number): number => levelDb(out, from * RATE_HZ, to * RATE_HZ);
  // The box is deeper than the noise beside it in the same pause.
  expect(span(0.5, 1.7)).toBeLessThan(span(0.05, 0.2) - 4);
});
