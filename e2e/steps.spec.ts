import { expect, test } from '@playwright/test';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { RATE_HZ, readSamples, writeWav } from './support/sounds.ts';

const root = join(import.meta.dirname, '..');
const address = process.env['EUPHONOS_E2E_ADDRESS']!;
const SECONDS = 12;
/** The left side: samples come side by side. */
const miller = readSamples(join(root, 'demo/miller.flac')).filter((_, n) => n % 2 === 0).slice(0, SECONDS * RATE_HZ);

test('what was done survives a reload: the list is there, and undo goes back to the start', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('long work.wav', miller), SECONDS);
  await desk.open('High-pass');
  await desk.type('Cutoff', '120');
  await desk.turn('Gate', true);
  await desk.select(1, 3);
  await page.keyboard.press('l');
  await page.keyboard.press('Control+z');
  await desk.saved();
  await page.reload();
  await expect(desk.strips).toBeVisible();
  await page.getByRole('button', { name: '2 steps done' }).click();
  await expect(page.getByRole('button', { name: 'High-pass: Cutoff 120 Hz' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByRole('button', { name: '3 steps done' })).toBeVisible();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'nothing done yet' })).toBeVisible();
  await expect(desk.treatment('High-pass')).toContainText('80 Hz');
  await desk.saved();
});

test('a version is kept, heard and seen in place of the present settings, and restored', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('two ways.wav', miller), SECONDS);
  await desk.open('High-pass');
  await desk.type('Cutoff', '200');
  await page.getByRole('button', { name: 'versions' }).click();
  await page.getByLabel('Name of the version').fill('Thin');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.keyboard.press('Escape');
  await desk.type('Cutoff', '60');
  await expect(desk.treatment('High-pass')).toContainText('60 Hz');
  await page.keyboard.press('v');
  await expect(page.getByText('You hear and see Thin.')).toBeVisible();
  await expect(desk.treatment('High-pass')).toContainText('200 Hz');
  await page.keyboard.press('v');
  await expect(desk.treatment('High-pass')).toContainText('60 Hz');
  await page.keyboard.press('v');
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(page.getByText('You hear and see Thin.')).toHaveCount(0);
  await expect(desk.treatment('High-pass')).toContainText('200 Hz');
  await desk.saved();
  await page.reload();
  await expect(page.getByRole('button', { name: '1 version' })).toBeVisible();
});

test('breaths are taken from the survey, stepped through, and one is left as it is', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('with breaths.wav', miller), SECONDS);
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /Breaths/ }).click();
  await page.getByRole('button', { name: 'Take them' }).click({ timeout: 20_000 });
  const rows = page.locator('[data-breath]');
  const count = await rows.count();
  expect(count).toBeGreaterThan(1);
  await expect(desk.treatment('Breaths').getByText(`${count} lowered here`)).toBeVisible();
  await page.keyboard.press('j');
  await page.keyboard.press('x');
  await expect(page.locator('[data-breath=leave]')).toHaveCount(1);
  await expect(desk.treatment('Breaths').getByText(`${count - 1} lowered here`)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-breath=leave]')).toHaveCount(0);
});
