import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { bringIn } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { knownSound, measure, writeWav } from './support/sounds.ts';

// What goes on elsewhere: many files at once, a timeline and back, a bundle, a report.
const demo = join(import.meta.dirname, '../demo');

test('a batch: each by itself, one of them broken; heard before and after by keys, accepted, sent to its session', async ({ page }) => {
  const folder = join(scratch, 'batch');
  mkdirSync(folder, { recursive: true });
  const names = ['miller', 'boatwright', 'guide'].map((name) => {
    copyFileSync(join(demo, `${name}.flac`), join(folder, `batch ${name}.flac`));
    return join(folder, `batch ${name}.flac`);
  });
  writeFileSync(join(folder, 'broken.wav'), 'these are words');
  await page.goto(`${address}/batches`);
  await page.getByLabel('Name').fill('Three and a broken one');
  await page.getByLabel('Target').selectOption('European broadcast');
  await page.getByRole('button', { name: 'Start' }).click();
  await page.getByLabel('Recordings for the batch').setInputFiles([...names, join(folder, 'broken.wav')]);
  await expect(page.locator('[data-item=done]')).toHaveCount(3);
  await expect(page.locator('[data-item=failed]')).toContainText('No sound was found in the file');
  await expect(page.locator('[data-summary]')).toContainText('4 recordings · 3 done, 1 failed');
  // What needs an ear most comes first; what failed has no result to hear.
  await page.getByRole('button', { name: /^Needs an ear/ }).click();
  const ears = await page.locator('[data-ear]').evaluateAll((cells) => cells.map((cell) => Number(cell.getAttribute('data-ear'))));
  expect(ears.slice(0, 3)).toEqual([...ears.slice(0, 3)].sort((a, b) => b - a));
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await expect(page.locator('[data-heard]')).toHaveAttribute('data-heard', 'result');
  await page.keyboard.press('1');
  await expect(page.locator('[data-heard]')).toHaveAttribute('data-heard', 'source');
  await page.keyboard.press('Space');
  await expect(page.locator('[data-heard]')).toHaveAttribute('data-heard', 'nothing');
  const first = await page.locator('[aria-current=true] td').first().textContent();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Heard, and good')).toHaveCount(1);
  await expect(page.locator('[aria-current=true] td').first()).not.toHaveText(first!);
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download' }).click()]);
  const path = join(scratch, 'of-a-batch.wav');
  await download.saveAs(path);
  expect(Math.abs(measure(path)['integratedLufs']! + 23)).toBeLessThan(0.2);
  await page.keyboard.press('t');
  await expect(page.locator('[data-strips]')).toBeVisible();
});

test('a timeline goes out, comes back shorter, and is undone; the session as a bundle comes in anew and renders the same bytes; a report', async ({
  page,
}) => {
  const sound = writeWav('onward.wav', knownSound(10));
  const desk = await bringIn(page, address, sound, 10);
  await page.getByRole('link', { name: /^Hand over/ }).click();
  const one = join(scratch, 'onward-1.wav');
  await desk.deliver(one);
  const [pdf] = await Promise.all([page.waitForEvent('download'), page.locator('[data-report] a', { hasText: 'PDF' }).click()]);
  await pdf.saveAs(join(scratch, 'onward.pdf'));
  expect(readFileSync(join(scratch, 'onward.pdf')).subarray(0, 5).toString('latin1')).toBe('%PDF-');

  const [bundle] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Bundle with all recordings' }).click(),
  ]);
  const zip = join(scratch, bundle.suggestedFilename());
  await bundle.saveAs(zip);
  const [written] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Write the timeline' }).click()]);
  const otio = join(scratch, 'onward.otio');
  await written.saveAs(otio);
  await expect(page.locator('[data-told]')).toContainText('The chain of a track');
  // Elsewhere the first two seconds are cut off, and all that is not known there is dropped.
  const timeline = JSON.parse(readFileSync(otio, 'utf8'), (key, value: unknown) => (key === 'metadata' ? {} : value)) as {
    tracks: { children: { children: { source_range: { start_time: { value: number }; duration: { value: number } } }[] }[] };
  };
  const { source_range: range } = timeline.tracks.children[0]!.children[0]!;
  range.start_time.value += 96_000;
  range.duration.value -= 96_000;
  writeFileSync(otio, JSON.stringify(timeline));
  await page.getByLabel('Timeline file').setInputFiles(otio);
  await expect(page.getByRole('button', { name: /Render the edit, 0:08/ })).toBeVisible();
  await desk.saved();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Render the whole recording' })).toBeVisible();

  await page.goto(address);
  await page.getByLabel('Files to bring in').setInputFiles(zip);
  const lines = page.getByRole('listitem').filter({ hasText: 'onward' });
  await expect(lines).toHaveCount(2);
  await expect(lines.first().getByText('Noise floor')).toBeVisible();
  await lines.first().getByRole('link').first().click();
  await page.getByRole('link', { name: /^Hand over/ }).click();
  const two = join(scratch, 'onward-2.wav');
  await desk.deliver(two);
  expect(readFileSync(two).equals(readFileSync(one))).toBe(true);
  execFileSync('ffprobe', ['-v', 'error', two]);
});
