import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { Desk } from './support/desk.ts';
import { scratch } from './support/server.ts';
import { measure } from './support/sounds.ts';

const address = process.env['EUPHONOS_E2E_ADDRESS']!;
const SECONDS = 126.7;

/** Loudness by an outside meter: ffmpeg's `ebur128` (EBU R 128). */
function outsideLufs(path: string): number {
  const { stderr } = {
    stderr: execFileSync('sh', ['-c', `ffmpeg -nostdin -hide_banner -i "${path}" -af ebur128 -f null - 2>&1`], { encoding: 'utf8' }),
  };
  return Number(/Integrated loudness:\s+I:\s+(-?[\d.]+) LUFS/.exec(stderr)![1]);
}

async function openBalance(page: Page): Promise<Desk> {
  await page.goto(address);
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill('whole tour');
  await page.getByRole('link', { name: 'The whole tour', exact: true }).click();
  // At the first start it is still being read.
  await expect(page.locator('[data-strips]')).toBeVisible({ timeout: 120_000 });
  await page.getByRole('link', { name: /^Balance/ }).click();
  await expect(page.getByRole('table', { name: 'Levels' }).getByRole('row')).toHaveCount(6);
  await expect(page.locator('[data-loudness=ready]')).toBeVisible({ timeout: 120_000 });
  await expect(page.locator('[data-spread]')).toBeVisible({ timeout: 120_000 });
  await expect(page.locator('[data-level=Bed]')).not.toContainText('–', { timeout: 120_000 });
  return new Desk(page, SECONDS);
}
const figuresOf = (page: Page, name: string): Promise<string[]> =>
  page.locator(`[data-level="${name}"] td`).evaluateAll((cells) => cells.slice(1).map((cell) => cell.textContent!.replace('−', '-')));

test('four people and a bed are matched by a key, limited, and measured by an outside meter', async ({ page }) => {
  const desk = await openBalance(page);
  const [, before] = await figuresOf(page, 'The narrator');
  expect(Number(before)).toBeLessThan(-20);
  // Without the bed, for the ear alone; the table stays.
  await page.keyboard.press('b');
  await expect(page.getByRole('button', { name: /without the bed/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('b');
  await expect(page.getByRole('button', { name: /bed off/ })).toHaveAttribute('aria-pressed', 'false');
  await page.keyboard.press('m');
  await expect(page.getByText(/^5 levels set: −16.0 LUFS/)).toBeVisible();
  await expect(page.locator('[data-spread]')).toContainText('0.0 LU');
  for (const name of ['The narrator', 'The miller', 'The boatwright', 'The guide']) {
    const [, after, off] = await figuresOf(page, name);
    expect([after, off]).toEqual(['-16.0', 'there']);
  }
  expect((await figuresOf(page, 'Bed')).slice(1, 3)).toEqual(['-31.0', 'there']);
  // The limiter on the whole: what it holds is told, and the mix stays under its ceiling.
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Limiter/ }).press('Enter');
  await desk.type('Ceiling', '-3');
  await expect(page.locator('[data-mix]')).not.toContainText('measuring', { timeout: 120_000 });
  await expect(page.locator('[data-dynamics]')).toContainText(/place/, { timeout: 120_000 });
  await desk.saved();

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  const mixPath = join(scratch, 'balanced.wav');
  await desk.deliver(mixPath, 'Render the mix of 5 tracks');
  expect(measure(mixPath)['truePeakDbtp']).toBeLessThan(-2.9);
  await page.getByRole('button', { name: 'Render 5 stems' }).click();
  await expect(page.locator('[data-stems=done]')).toBeVisible({ timeout: 120_000 });
  const links = page.getByRole('region', { name: 'Stems' }).getByRole('link');
  for (let i = 0; i < 5; i++) {
    const [download] = await Promise.all([page.waitForEvent('download'), links.nth(i).click()]);
    const path = join(scratch, `balanced stem ${i}.wav`);
    await download.saveAs(path);
    const wished = download.suggestedFilename().includes('Bed') ? -31 : -16;
    expect(Math.abs(outsideLufs(path) - wished)).toBeLessThanOrEqual(0.1);
  }
  // One step, undone as one.
  await page.getByRole('link', { name: /^Balance/ }).click();
  await expect(page.locator('[data-spread]')).toBeVisible();
  const left = page.getByRole('button', { name: /steps? done$|nothing done yet/ });
  await expect(async () => {
    await page.keyboard.press('Control+z');
    expect(await left.textContent()).toBe('nothing done yet');
  }).toPass();
  await expect(page.locator('[data-spread]')).not.toContainText('→ 0.0 LU');
  await desk.saved();
});
