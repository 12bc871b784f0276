import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Desk } from './support/desk.ts';
import { bringIn } from './support/desk.ts';
import { address, scratch } from './support/server.ts';

const RATE = 48_000;
const MINUTES = 11;

/** 11 minutes of the demo's narrator, over and over, with a cough and a chair in two of the pauses. */
const TIMES = 13;
const COUGH_SECONDS = [307.3, 307.6] as const;
/** Where a phrase begins in the narrator's pauses, less a tenth of a second. */
const BREATHS_END_SECONDS = [2.32, 5.1, 9.42] as const;
const CHAIR_SECONDS = [614.0, 614.35] as const;

function floats(path: string): Float32Array {
  const args = ['-nostdin', '-v', 'error', '-i', path, '-f', 'f32le', '-ac', '1', '-ar', String(RATE), '-'];
  const bytes = execFileSync('ffmpeg', args, { maxBuffer: 1 << 30 });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

function narration(): { readonly path: string; readonly sound: Float32Array } {
  const once = floats(join(import.meta.dirname, '../demo/narrator.flac'));
  const sound = new Float32Array(MINUTES * 60 * RATE);
  for (let i = 0; i < TIMES; i++)
    sound.set(once.subarray(0, Math.max(0, Math.min(once.length, sound.length - i * once.length))), i * once.length);
  let seed = 1;
  let [low, lower] = [0, 0];
  const random = (): number => ((seed = (seed * 16807) % 2147483647) / 2147483647) * 2 - 1;
  for (const [from, to, level] of [
    [...COUGH_SECONDS, 0.12],
    [...CHAIR_SECONDS, 0.2],
  ] as const) {
    const frames = Math.round((to - from) * RATE);
    for (let n = 0; n < frames; n++) sound[Math.round(from * RATE) + n]! += level * random() * Math.sin((Math.PI * n) / frames);
  }
  // Breaths are made, for want of marked ones: noise shaped like breath, rising and falling, right before phrases of every round.
  for (let round = 0; round < TIMES - 1; round++)
    for (const end of BREATHS_END_SECONDS)
      for (let n = 0, at = round * once.length + Math.round((end - 0.36) * RATE); n < 0.36 * RATE; n++) {
        low += 0.35 * (random() - low);
        lower += 0.05 * (low - lower);
        sound[at + n]! += 0.055 * (low - lower) * Math.sin((Math.PI * n) / (0.36 * RATE)) ** 0.7;
      }
  const raw = join(scratch, 'narration.f32');
  const path = join(scratch, 'narration.flac');
  writeFileSync(raw, Buffer.from(sound.buffer));
  execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-f',
    'f32le',
    '-ar',
    String(RATE),
    '-ac',
    '1',
    '-i',
    raw,
    '-c:a',
    'flac',
    '-sample_fmt',
    's32',
    path,
  ]);
  return { path, sound };
}

interface Shown {
  readonly clips: readonly {
    readonly startFrame: number;
    readonly source: { readonly startFrame: number; readonly endFrame: number };
    readonly gainDb: number;
  }[];
  readonly lengthFrames: number;
}
/** What is open in the page: its clips, where a place of the recording sounds. */
const shown = (page: Page): Promise<Shown> =>
  page.evaluate(() => {
    const { sound, lengthFrames } = (window as unknown as { euphonosWorkbench: { sound: { clips: Shown['clips'] }; lengthFrames: number } })
      .euphonosWorkbench;
    return { clips: sound.clips, lengthFrames };
  });

/** Shows a stretch of the recording closely, and selects it on the strips. */
async function selectRecorded(page: Page, [from, to]: readonly [number, number]): Promise<void> {
  const px = await page.evaluate(
    ([start, end]) => {
      const { view, places } = (
        window as unknown as {
          euphonosWorkbench: {
            view: { show(a: number, b: number): void; pxAt(frame: number): number };
            places: { ofSeconds(span: object): { startFrame: number; endFrame: number }[] };
          };
        }
      ).euphonosWorkbench;
      const [place] = places.ofSeconds({ startSeconds: start, endSeconds: end });
      view.show(place!.startFrame - 48_000, place!.endFrame + 48_000);
      return [view.pxAt(place!.startFrame), view.pxAt(place!.endFrame)];
    },
    [from, to],
  );
  const box = (await page.locator('[data-strips]').boundingBox())!;
  await page.mouse.move(box.x + px[0]!, box.y + box.height / 4);
  await page.mouse.down();
  await page.mouse.move(box.x + (px[0]! + px[1]!) / 2, box.y + box.height / 4);
  await page.mouse.move(box.x + px[1]!, box.y + box.height / 4);
  await page.mouse.up();
}
const levelDb = (x: Float32Array, from: number, to: number): number => {
  let sum = 0;
  for (let n = from; n < to; n++) sum += x[n]! ** 2;
  return 10 * Math.log10(sum / (to - from) + 1e-20);
};
const largestStep = (x: Float32Array, from: number, to: number): number => {
  let most = 0;
  for (let n = Math.max(1, from); n < Math.min(x.length, to); n++) most = Math.max(most, Math.abs(x[n]! - x[n - 1]!));
  return most;
};

test('a narration of eleven minutes goes from raw to tight by keyboard, renders to the sample, and undoes to the source', async ({
  page,
}) => {
  const { path, sound } = narration();
  const desk: Desk = await bringIn(page, address, path, MINUTES * 60);
  // The room alone is to be compared: nothing else in the chain.
  await desk.turn('High-pass', false);
  await desk.turn('Noise reduction', false);

  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Pauses/ }).press('Enter');
  await page.getByRole('button', { name: 'Find them' }).click();
  await page.getByRole('radio', { name: 'shorten', exact: true }).click();
  const pauses = Number(await page.locator('[data-to-apply]').getAttribute('data-to-apply'));
  expect(pauses).toBeGreaterThan(80);
  await page.keyboard.press('p');
  await expect(page.locator('[data-to-apply="0"]')).toBeVisible();
  const shortened = await shown(page);
  expect(shortened.lengthFrames).toBeLessThan(0.9 * sound.length);
  // One was no pause to the ear: a click gives it back.
  await page.keyboard.press('j');
  await page.keyboard.press('x');
  await expect(page.locator('[data-to-apply="1"]')).toBeVisible();
  expect((await shown(page)).lengthFrames).toBeGreaterThan(shortened.lengthFrames);
  await page.getByRole('radio', { name: 'lower', exact: true }).click();

  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Breaths/ }).press('Enter');
  await page.getByRole('region', { name: 'Breaths', exact: true }).getByRole('button', { name: 'Take them' }).click();
  for (let i = 0; i < 5; i++) {
    await page.keyboard.press('j');
    await page.keyboard.press('x');
  }
  await expect(page.locator('[data-span-row=leave]')).not.toHaveCount(0);

  await selectRecorded(page, COUGH_SECONDS);
  for (let i = 0; i < 4; i++) await page.keyboard.press('d');
  await expect.poll(async () => (await shown(page)).clips.filter(({ gainDb }) => gainDb === -12).length).toBe(1);
  await page.keyboard.press('Escape');
  const before = (await shown(page)).lengthFrames;
  await selectRecorded(page, CHAIR_SECONDS);
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await shown(page)).lengthFrames).toBeLessThan(before - 0.3 * RATE);

  const { clips, lengthFrames } = await shown(page);
  await page.getByRole('link', { name: /Hand over/ }).click();
  await desk.saved();
  await page.getByRole('button', { name: /^Render the edit/ }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Download/ }).click()]);
  const file = join(scratch, 'narration-out.wav');
  await download.saveAs(file);
  const out = floats(file);
  expect(out.length).toBe(lengthFrames);

  // No joint clicks: the step there is no larger than the sound's own close by.
  const steps = clips
    .slice(1)
    .map(
      ({ startFrame }) =>
        largestStep(out, startFrame - 240, startFrame + 240) / (largestStep(out, startFrame - 24_000, startFrame + 24_000) + 1e-9),
    );
  expect(Math.max(...steps)).toBeLessThanOrEqual(1);
  // Pauses that were shortened lie 12 dB lower against their words than they did.
  const gain = levelDb(out, 0, 120 * RATE) - levelDb(sound, 0, 140 * RATE);
  const lowered = clips
    .slice(2, 40)
    .map(
      ({ startFrame, source }) =>
        levelDb(out, startFrame - 2000, startFrame + 2000) - levelDb(sound, source.startFrame - 2000, source.startFrame + 2000) - gain,
    );
  lowered.sort((a, b) => a - b);
  expect(Math.abs(lowered[lowered.length >> 1]! + 12)).toBeLessThan(1);

  await page.getByRole('link', { name: /Treat/ }).click();
  await page.reload();
  await expect(page.getByText(/steps done/)).toBeVisible();
  const done = Number(/\d+/.exec((await page.getByText(/steps done/).textContent())!)![0]);
  for (let i = 0; i < done; i++) await page.keyboard.press('Control+z');
  await expect(page.getByText('nothing done yet')).toBeVisible();
  await expect
    .poll(async () => (await shown(page)).clips.map(({ startFrame, source }) => [startFrame, source]))
    .toEqual([[0, { startFrame: 0, endFrame: sound.length }]]);
});
