import { expect, test, type Page } from '@playwright/test';
import { join } from 'node:path';
import { Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, RATE_HZ, readSamples } from './support/sounds.ts';
import { readTap, startTap, straight } from './support/tap.ts';

const SECONDS = 126.7;

interface Saved {
  readonly tracks: readonly {
    readonly name: string;
    readonly pan: number;
    readonly muted: boolean;
    readonly chainLink: string | null;
    readonly chain: { readonly treatments: readonly { readonly kind: string; readonly reductionDb?: number }[] };
  }[];
}
const saved = (page: Page): Promise<Saved> =>
  page.evaluate(async () => {
    const id = location.pathname.split('/')[2]!;
    return ((await (await fetch(`/api/sessions/${id}`)).json()) as { document: Saved }).document;
  });
const player = (page: Page): Promise<{ playing: boolean; frame: number }> =>
  page.evaluate(() => {
    const { playing, frame } = (window as unknown as { euphonosWorkbench: { player: { playing: boolean; frame: number } } })
      .euphonosWorkbench.player;
    return { playing, frame };
  });

async function openTour(page: Page): Promise<Desk> {
  await page.goto(address);
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill('whole tour');
  await page.getByRole('link', { name: 'The whole tour', exact: true }).click();
  const desk = new Desk(page, SECONDS);
  await expect(desk.strips).toBeVisible();
  await expect(page.getByRole('region', { name: 'Tracks' }).getByRole('listitem')).toHaveCount(5);
  return desk;
}
/** Down and up at once: where the machine is busy the browser hears so late of the second that the key was held. */
const tap = (page: Page, key: string): Promise<void> =>
  page.evaluate((key) => {
    for (const type of ['keydown', 'keyup'])
      document.body.dispatchEvent(new KeyboardEvent(type, { key, code: `Key${key.toUpperCase()}`, bubbles: true }));
  }, key);
const left = (samples: Float32Array): Float32Array => samples.filter((_, i) => i % 2 === 0);

test('four people and a bed: one chain for all of them, heard together, rendered as a mix and as stems of one length', async ({ page }) => {
  const desk = await openTour(page);
  await page.keyboard.press('q');
  const dialog = page.getByRole('dialog', { name: 'Chains' });
  for (const name of ['The miller', 'The boatwright', 'The guide']) await dialog.getByRole('checkbox', { name }).check();
  await dialog.getByRole('checkbox', { name: /^linked/ }).check();
  await dialog.locator('[data-chain-line="Computer beside the desk"]').getByRole('button', { name: 'Compare' }).click();
  await expect(dialog.getByRole('table', { name: 'Differences to Computer beside the desk' })).toContainText('Gate');
  await dialog.locator('[data-chain-line="Computer beside the desk"]').getByRole('button', { name: 'Take' }).click();
  await expect(page.getByText('One chain with The miller, The boatwright, The guide')).toBeVisible();
  await desk.type('Reduction', '9');
  await desk.saved();
  const { tracks } = await saved(page);
  const reduction = (i: number) => tracks[i]!.chain.treatments.find(({ kind }) => kind === 'noise-reduction')?.reductionDb;
  expect([0, 1, 2, 3].map(reduction)).toEqual([9, 9, 9, 9]);
  expect(new Set(tracks.slice(0, 4).map(({ chainLink }) => chainLink)).size).toBe(1);
  expect([tracks[4]!.name, tracks[4]!.chain.treatments]).toEqual(['Bed', []]);

  // Everybody at once, over the middle of the tour.
  await page.getByRole('radio', { name: 'all together' }).click();
  await page.keyboard.press('9');
  await page.keyboard.press('9');
  await expect.poll(async () => Math.round((await player(page)).frame / RATE_HZ)).toBe(58);
  // Until then it says that it may differ.
  await expect(page.locator('[data-not-exact]')).toHaveCount(0);
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(4500);
  const heard = straight(await readTap(page));
  await desk.stop();

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  const mixPath = join(scratch, 'tour.wav');
  await desk.deliver(mixPath, 'Render the mix of 5 tracks');
  const mix = readSamples(mixPath);
  const rendered = left(mix);
  const length = Math.min(heard.samples.length, 3 * RATE_HZ);
  const difference = Float32Array.from({ length }, (_, n) => heard.samples[n]! - rendered[heard.frame + n]!);
  expect(levelDb(heard.samples.subarray(0, length))).toBeGreaterThan(-40);
  expect(levelDb(difference)).toBeLessThan(-90);

  await page.getByRole('button', { name: 'Render 5 stems' }).click();
  await expect(page.locator('[data-stems=done]')).toBeVisible();
  const sum = new Float32Array(mix.length);
  const links = page.getByRole('region', { name: 'Stems' }).getByRole('link');
  await expect(links).toHaveCount(5);
  for (let i = 0; i < 5; i++) {
    const [download] = await Promise.all([page.waitForEvent('download'), links.nth(i).click()]);
    const path = join(scratch, `stem ${i}.wav`);
    await download.saveAs(path);
    const stem = readSamples(path);
    expect(stem.length).toBe(mix.length);
    stem.forEach((x, n) => (sum[n]! += x));
  }
  expect(levelDb(sum.map((x, n) => x - mix[n]!))).toBeLessThan(-110);
});

test('at the desk by keyboard: from lane to lane while it plays, solo, mute, a mark, twice as fast', async ({ page }) => {
  const desk = await openTour(page);
  await page.keyboard.press('9');
  await desk.play();
  await page.keyboard.press('ArrowDown');
  await expect.poll(async () => (await player(page)).playing).toBe(true);
  // It goes on where it was: the narrator begins at 5 s, the miller has not begun.
  const { frame } = await player(page);
  expect(frame / RATE_HZ).toBeGreaterThan(5);
  expect(frame / RATE_HZ).toBeLessThan(20);
  await tap(page, 'u');
  await expect(page.getByText('one track solo, hear all again')).toBeVisible();
  await tap(page, 'u');
  await page.keyboard.press('Shift+>');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+>');
  await expect(page.getByRole('combobox', { name: 'Speed' })).toHaveValue('2');
  await page.waitForTimeout(600);
  const before = (await player(page)).frame;
  await page.waitForTimeout(2000);
  const speed = ((await player(page)).frame - before) / RATE_HZ / 2;
  expect(speed).toBeGreaterThan(1.7);
  expect(speed).toBeLessThan(2.3);
  await desk.stop();
  await page.keyboard.press('i');
  await page.keyboard.press('8');
  await expect(page.getByRole('textbox', { name: /^Name of the mark/ }).first()).toBeVisible();
  await page.keyboard.type('a breath');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await desk.saved();
  expect((await saved(page)).tracks[1]!.muted).toBe(true);
  await expect(page.locator('[data-time-axis]').getByText('a breath')).toBeVisible();
});
