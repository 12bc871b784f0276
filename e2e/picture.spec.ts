import { execFileSync } from 'node:child_process';
import { copyFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { bringIn } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, readSamples, RATE_HZ } from './support/sounds.ts';

// A recording that was filmed: the demo's guide. Her picture is seen while she is treated, and gets its sound back.
const filmed = join(scratch, 'filmed-walk.mov');
const A_FRAME = 1 / 25;

test.beforeAll(() => copyFileSync(join(import.meta.dirname, '../demo/guide.mov'), filmed));

interface Here extends Window {
  euphonosWorkbench: { scrubbedFrame: number | null; player: { frame: number; playing: boolean; seek(frame: number): void } };
}

/** How far every frame that was shown in a while was from what was heard then, in seconds: 0 where the sound lies within the frame. */
const apart = (page: Page, ms: number): Promise<number[]> =>
  page.evaluate(
    ([wait, rate, frame]) =>
      new Promise<number[]>((resolve) => {
        const video = document.querySelector<HTMLVideoElement>('video[data-picture]')!;
        const { player } = (window as unknown as Here).euphonosWorkbench;
        const found: number[] = [];
        let going = true;
        const next = (_: number, { mediaTime }: { mediaTime: number }): void => {
          const late = player.frame / rate - mediaTime;
          found.push(late < 0 ? late : Math.max(0, late - frame));
          if (going) video.requestVideoFrameCallback(next);
        };
        video.requestVideoFrameCallback(next);
        setTimeout(() => {
          going = false;
          resolve(found);
        }, wait);
      }),
    [ms, RATE_HZ, A_FRAME] as const,
  );
const shownSeconds = (page: Page): Promise<number> =>
  page.locator('video[data-picture]').evaluate((video: HTMLVideoElement) => (video.seeking ? -1 : video.currentTime));

test('the picture follows playhead, play and loop within a frame; its cleaned sound goes back, the picture the same bit for bit', async ({
  page,
}) => {
  const desk = await bringIn(page, address, filmed, 23.72);
  await expect(page.locator('video[data-picture]')).toBeVisible();
  // Where the playhead is put.
  for (const seconds of [10.52, 3.2, 20.04]) {
    await page.evaluate(([at, rate]) => (window as unknown as Here).euphonosWorkbench.player.seek(at * rate), [seconds, RATE_HZ] as const);
    await expect.poll(async () => Math.abs((await shownSeconds(page)) - seconds)).toBeLessThan(0.01);
  }
  // While somebody scrubs: what is under the pointer, at nearly every look.
  const times = (await page.locator('[data-time-axis]').boundingBox())!;
  await page.mouse.move(times.x + 100, times.y + 6);
  await page.mouse.down();
  const off: number[] = [];
  for (let i = 1; i <= 12; i++) {
    await page.mouse.move(times.x + 100 + 30 * i, times.y + 6);
    await page.waitForTimeout(90);
    off.push(
      await page.evaluate((rate) => {
        const { scrubbedFrame, player } = (window as unknown as Here).euphonosWorkbench;
        return Math.abs(
          document.querySelector<HTMLVideoElement>('video[data-picture]')!.currentTime - (scrubbedFrame ?? player.frame) / rate,
        );
      }, RATE_HZ),
    );
  }
  await page.mouse.up();
  expect(off.filter((seconds) => seconds <= A_FRAME).length).toBeGreaterThanOrEqual(10);
  // While it plays: after a moment, all but a few frames of a busy machine.
  await desk.play();
  await page.waitForTimeout(1200);
  const played = await apart(page, 2500);
  expect(played.length).toBeGreaterThan(20);
  const within = played.filter((seconds) => Math.abs(seconds) <= A_FRAME).length / played.length;
  expect(within).toBeGreaterThan(0.9);
  // Round a loop.
  await desk.stop();
  await desk.select(4, 6);
  await page.keyboard.press('l');
  await desk.play();
  await page.waitForTimeout(3200);
  const looped = await apart(page, 2500);
  expect(looped.filter((seconds) => Math.abs(seconds) <= A_FRAME).length / looped.length).toBeGreaterThan(0.85);
  expect(await shownSeconds(page)).toBeLessThan(6.1);
  await desk.stop();
  // It is put away by a key, and there again.
  await page.keyboard.press('Shift+V');
  await expect(page.locator('video[data-picture]')).toHaveCount(0);
  await page.keyboard.press('Shift+V');
  await expect(page.locator('video[data-picture]')).toBeVisible();

  await page.getByRole('link', { name: /^Hand over/ }).click();
  const path = join(scratch, 'back-in-its-picture.mov');
  const download = await desk.deliver(path, 'Render back into its picture');
  expect(download.suggestedFilename()).toBe('filmed-walk (cleaned).mov');
  const stream = (file: string): string =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-map', '0:v', '-c', 'copy', '-f', 'streamhash', '-'], { encoding: 'utf8' });
  expect(stream(path)).toBe(stream(filmed));
  const [before, after] = [readSamples(filmed), readSamples(path)];
  expect(after.length).toBe(before.length);
  // In time to the sample: above 2 kHz, where no filter of the chain turns anything, both are the same but for the level.
  const steps = (sound: Float32Array): Float32Array => sound.map((x, n) => (n > 1 ? x - 2 * sound[n - 1]! + sound[n - 2]! : 0));
  const [a, b] = [steps(before), steps(after)];
  let [best, lag] = [-Infinity, 99];
  for (let by = -20; by <= 20; by++) {
    let sum = 0;
    for (let n = 3 * RATE_HZ; n < 12 * RATE_HZ; n += 3) sum += a[n]! * b[n + by]!;
    if (sum > best) [best, lag] = [sum, by];
  }
  expect(lag).toBe(0);
  // The wind under the words is gone: the high-pass alone takes 20 dB of it.
  const gap = (sound: Float32Array): number => levelDb(sound, 0.2 * RATE_HZ, 1.4 * RATE_HZ) - levelDb(sound, 2 * RATE_HZ, 12 * RATE_HZ);
  expect(gap(after)).toBeLessThan(gap(before) - 6);
});
