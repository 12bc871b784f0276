import { expect, test } from '@playwright/test';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, RATE_HZ, readSamples, writeWav } from './support/sounds.ts';

const root = join(import.meta.dirname, '..');
const SECONDS = 12;
/** The left side: samples come side by side. */
const miller = readSamples(join(root, 'demo/miller.flac'))
  .filter((_, n) => n % 2 === 0)
  .slice(0, SECONDS * RATE_HZ);

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
  // Keys belong to the list until it is gone.
  await expect(page.getByRole('dialog')).toHaveCount(0);
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
  // Compared blind: what X was is told at the end.
  await page.keyboard.press('Shift+X');
  const compare = page.locator('[data-compare]');
  await expect(compare).toHaveAttribute('data-compare', 'ready');
  await expect(page.getByLabel('What A is')).toHaveValue(/^version/);
  await page.keyboard.press('x');
  await expect(compare).toHaveAttribute('data-compare', 'blind');
  for (let turn = 1; turn <= 3; turn++) {
    await page.keyboard.press('ArrowLeft');
    await expect(page.locator('[data-trials]')).toHaveAttribute('data-trials', String(turn));
  }
  await page.getByRole('button', { name: 'Tell me' }).click();
  await expect(page.locator('[data-score]')).toHaveAttribute('data-score', /^[0-3]\/3$/);
  await page.keyboard.press('Escape');
  await expect(compare).toHaveCount(0);
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
  await page.getByRole('button', { name: 'Take them' }).click();
  const rows = page.locator('[data-span-row]');
  const count = await rows.count();
  expect(count).toBeGreaterThan(1);
  await expect(desk.treatment('Breaths').getByText(`${count} lowered here`)).toBeVisible();
  await page.keyboard.press('j');
  await page.keyboard.press('x');
  await expect(page.locator('[data-span-row=leave]')).toHaveCount(1);
  await expect(desk.treatment('Breaths').getByText(`${count - 1} lowered here`)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-span-row=leave]')).toHaveCount(0);
});

test('pauses are lowered between the words, one is given back, and the file holds it', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('with pauses.wav', miller), SECONDS);
  for (const other of ['High-pass', 'Noise reduction', 'Gate']) await desk.turn(other, false);
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /Pauses/ }).click();
  await page.getByRole('button', { name: 'Find them' }).click();
  const panel = desk.treatment('Pauses');
  await expect(panel.getByText(/\d+ pauses, \d+ lowered here/)).toBeVisible();
  await expect(page.locator('[data-mended]')).not.toHaveAttribute('data-mended', '0');
  await page.keyboard.press('j');
  const first = (await page.evaluate(
    () =>
      (
        window as unknown as { euphonosWorkbench: { effects: { events: { startFrame: number; endFrame: number }[] }[] } }
      ).euphonosWorkbench.effects.find(({ events }) => events.length > 0)!.events,
  ))!;
  await page.keyboard.press('x');
  await expect(page.locator('[data-span-row=leave]')).toHaveCount(1);
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  const path = join(scratch, 'with pauses, out.wav');
  await desk.deliver(path);
  const out = readSamples(path);
  expect(out.length).toBe(miller.length);
  const fall = ({ startFrame, endFrame }: { startFrame: number; endFrame: number }): number => {
    const [from, to] = [Math.round(startFrame + (endFrame - startFrame) * 0.4), Math.round(startFrame + (endFrame - startFrame) * 0.6)];
    return levelDb(miller, from, to) - levelDb(out, from, to);
  };
  expect(Math.abs(fall(first[0]!)), 'the one that was given back').toBeLessThan(0.1);
  for (const pause of first.slice(1)) expect(Math.abs(fall(pause) - 12)).toBeLessThan(1);
});
