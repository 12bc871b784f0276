import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, measure, readSamples, writeWav } from './support/sounds.ts';

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
  await expect(page.locator('[data-strips]')).toBeVisible();
  await page.getByRole('link', { name: /^Balance/ }).click();
  await expect(page.getByRole('table', { name: 'Levels' }).getByRole('row')).toHaveCount(6);
  await expect(page.locator('[data-loudness=ready]')).toBeVisible();
  await expect(page.locator('[data-spread]')).toBeVisible();
  await expect.poll(async () => (await figuresOf(page, 'Bed'))[1]).not.toBe('–');
  return new Desk(page, SECONDS);
}
const figuresOf = (page: Page, name: string): Promise<string[]> =>
  page.locator(`[data-level="${name}"] td`).evaluateAll((cells) => cells.slice(1).map((cell) => cell.textContent!.replace('−', '-')));

/**
 * How far speech (gated) stands above the bed while somebody speaks, by the outside meter; and how far the bed is lower there than where nobody
 * does. Somebody speaks where the stems of speech are loud, and up to half a second beside it.
 */
function overTheBed(speech: readonly string[], bedPath: string): readonly [overLu: number, loweredDb: number] {
  const STEP = 2 * 960;
  const bed = readSamples(bedPath);
  const people = new Float32Array(bed.length);
  for (const path of speech) readSamples(path).forEach((x, n) => (people[n]! += x));
  const loud = Array.from({ length: Math.floor(bed.length / STEP) }, (_, i) => levelDb(people, i * STEP, (i + 1) * STEP) > -32);
  const near = (i: number, reach: number): boolean => loud.slice(Math.max(0, i - reach), i + reach + 1).includes(true);
  const cut = (wanted: (i: number) => boolean): Float32Array => {
    const parts = loud.flatMap((_, i) => (wanted(i) ? [bed.subarray(i * STEP, (i + 1) * STEP)] : []));
    return Float32Array.from({ length: parts.length * STEP }, (_, n) => parts[Math.floor(n / STEP)]![n % STEP]!);
  };
  const under = outsideLufs(
    writeWav(
      'bed under speech.wav',
      cut((i) => near(i, 12)),
      2,
    ),
  );
  const alone = outsideLufs(
    writeWav(
      'bed alone.wav',
      cut((i) => !near(i, 130)),
      2,
    ),
  );
  return [outsideLufs(writeWav('people.wav', people, 2)) - under, alone - under];
}

test('four people and a bed are matched by a key, limited, and measured by an outside meter', async ({ page }) => {
  const desk = await openBalance(page);
  const [, before] = await figuresOf(page, 'The narrator');
  expect(Number(before)).toBeLessThan(-20);
  // Without the bed, for the ear alone; the table stays.
  await page.keyboard.press('b');
  await expect(page.getByRole('button', { name: /without the bed/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('b');
  await expect(page.getByRole('button', { name: /bed off/ })).toHaveAttribute('aria-pressed', 'false');
  // The bed ends before the programme does: extended where it goes on alike; a join is exchanged for another one.
  await page.keyboard.press('Shift+e');
  const length = page.locator('[data-bed-length]');
  await expect(length).toContainText(/Bed is 2:/);
  await length
    .getByRole('button', { name: /^Another join/ })
    .first()
    .click();
  await expect(length).toContainText(/Bed is 2:/);
  // Turned down while somebody speaks, by a key; then matched, and so far under speech as is wished.
  const bed = page.locator('[data-bed=ready]');
  await expect(bed.locator('[data-over]')).toBeVisible();
  await page.keyboard.press('u');
  await expect(bed).toContainText('goes down by');
  await expect(async () => {
    await page.keyboard.press('m');
    await expect(page.getByText(/^5 levels set: −16.0 LUFS/)).toBeVisible({ timeout: 1000 });
  }).toPass();
  await expect(page.locator('[data-spread]')).toContainText('0.0 LU');
  for (const name of ['The narrator', 'The miller', 'The boatwright', 'The guide']) {
    const [, after, off] = await figuresOf(page, name);
    expect([after, off]).toEqual(['-16.0', 'there']);
  }
  expect((await figuresOf(page, 'Bed')).slice(1, 3)).toEqual(['-22.0', 'there']);
  await expect(bed.locator('[data-over]')).toBeVisible();
  await page.keyboard.press('u');
  await expect(bed.locator('[data-over]')).toHaveText('15.0 LU');
  // The limiter on the whole: what it holds is told, and the mix stays under its ceiling.
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Limiter/ }).press('Enter');
  await desk.type('Ceiling', '-3');
  await expect(page.locator('[data-mix]')).not.toContainText('measuring');
  await expect(page.locator('[data-dynamics]')).toContainText(/place/);
  // Loudness and spectrum of one of them alone; a stretch of the mix has figures of its own.
  await page.getByRole('checkbox', { name: 'Choose The miller' }).check();
  await expect(page.locator('[data-scope]')).toHaveText('of The miller');
  await expect(page.locator('[data-mix] b')).toHaveText('−16.0 LUFS');
  await page.keyboard.press('Shift+S');
  await expect(page.locator('[data-spectrum=ready]')).toBeVisible();
  await page.keyboard.press('Shift+S');
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-loudness=ready]')).toBeVisible();
  const line = (await page.locator('[data-loudness]').boundingBox())!;
  await page.mouse.move(line.x + 0.3 * line.width, line.y + 40);
  await page.mouse.down();
  await page.mouse.move(line.x + 0.4 * line.width, line.y + 50, { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('[data-scope]')).toHaveText(/^of the mix, 0:\d\d/);
  // The same stretch compared blind: as it was recorded, and as it is now.
  await page.keyboard.press('Shift+X');
  const compare = page.locator('[data-compare]');
  await expect(compare).toHaveAttribute('data-compare', 'ready');
  await expect(page.getByLabel('What A is')).toHaveValue('source');
  await expect(page.locator('[data-side-level]').first()).toContainText('LUFS, raised by');
  await page.keyboard.press('x');
  await expect(compare).toHaveAttribute('data-compare', 'blind');
  for (let turn = 1; turn <= 5; turn++) {
    await page.keyboard.press(turn % 2 ? 'ArrowLeft' : 'ArrowRight');
    await expect(page.locator('[data-trials]')).toHaveAttribute('data-trials', String(turn));
  }
  await page.getByRole('button', { name: 'Tell me' }).click();
  await expect(page.locator('[data-score]')).toHaveAttribute('data-score', /^[0-5]\/5$/);
  await page.keyboard.press('Escape');
  await expect(compare).toHaveCount(0);
  await page.keyboard.press('Escape');
  await desk.saved();

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  const mixPath = join(scratch, 'balanced.wav');
  await desk.deliver(mixPath, 'Render the mix of 5 tracks');
  expect(measure(mixPath)['truePeakDbtp']).toBeLessThan(-2.9);
  await page.getByRole('button', { name: 'Render 5 stems' }).click();
  await expect(page.locator('[data-stems=done]')).toBeVisible();
  const links = page.getByRole('region', { name: 'Stems' }).getByRole('link');
  const speech: string[] = [];
  let bedPath = '';
  for (let i = 0; i < 5; i++) {
    const [download] = await Promise.all([page.waitForEvent('download'), links.nth(i).click()]);
    const path = join(scratch, `balanced stem ${i}.wav`);
    await download.saveAs(path);
    if (download.suggestedFilename().includes('Bed')) bedPath = path;
    else {
      speech.push(path);
      expect(Math.abs(outsideLufs(path) + 16)).toBeLessThanOrEqual(0.1);
    }
  }
  const [over, lowered] = overTheBed(speech, bedPath);
  expect(Math.abs(over - 15)).toBeLessThan(1);
  expect(lowered).toBeGreaterThan(5);
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
