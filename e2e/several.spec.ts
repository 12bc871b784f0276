import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';

const RATE_HZ = 48_000;
const ffmpeg = (...args: string[]): Buffer => execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args], { maxBuffer: 1 << 28 });

/** A stretch of the demo's narrator as somebody's recorder has it. */
function take(name: string, from: number, seconds: number, how = 'anull', rateHz = RATE_HZ): string {
  const path = join(scratch, name);
  const demo = join(import.meta.dirname, '../demo/narrator.flac');
  ffmpeg('-ss', String(from), '-t', String(seconds), '-i', demo, '-af', how, '-ar', String(rateHz), path);
  return path;
}
async function bringIn(page: Page, paths: readonly string[], way: RegExp): Promise<void> {
  await page.goto(address);
  await page.locator('input[type=file]').setInputFiles(paths);
  await page.getByRole('button', { name: way }).click();
}
async function openIt(page: Page, name: string): Promise<void> {
  const line = page.getByRole('listitem').filter({ hasText: name });
  await expect(line.getByText('Noise floor')).toBeVisible();
  await line.getByRole('link').click();
  await expect(page.locator('[data-strips]')).toBeVisible();
}
interface Saved {
  readonly tracks: readonly {
    readonly name: string;
    readonly reel: readonly object[];
    readonly clips: readonly { readonly startFrame: number }[];
  }[];
}
/** The session that is open, as the server has it. */
const saved = (page: Page): Promise<Saved> =>
  page.evaluate(async () => {
    const id = location.pathname.split('/')[2]!;
    return ((await (await fetch(`/api/sessions/${id}`)).json()) as { document: Saved }).document;
  });

test('seven files come in three ways: one after the other on one track, rendered to the sample; a track each; a session each', async ({
  page,
}) => {
  await bringIn(
    page,
    [take('part 10.wav', 14, 2), take('part 2.wav', 8, 3), take('part 1.flac', 2, 4)],
    /^One session, one after the other/,
  );
  await openIt(page, 'part 1');
  await expect(page.getByText('0:09 in 3 recordings')).toBeVisible();
  const { tracks } = await saved(page);
  expect(tracks.map(({ reel, clips }) => [reel.length, clips.map(({ startFrame }) => startFrame / RATE_HZ)])).toEqual([[3, [0, 4, 7]]]);
  const desk = new Desk(page, 9);
  for (const title of ['High-pass', 'Noise reduction']) await desk.turn(title, false);
  await page.getByRole('link', { name: /Hand over/ }).click();
  const file = join(scratch, 'in sequence.wav');
  await desk.deliver(file, 'Render the edit');
  const bytes = ffmpeg('-i', file, '-f', 'f32le', '-ac', '1', '-');
  expect(bytes.length / 4).toBe(9 * RATE_HZ);

  await bringIn(page, [take('anna.wav', 2, 5), take('ben.wav', 9, 6, 'volume=-6dB', 44_100)], /^One session, a track each/);
  await openIt(page, 'anna');
  expect((await saved(page)).tracks.map(({ name }) => name)).toEqual(['anna', 'ben']);

  await bringIn(page, [take('alone.wav', 2, 3), take('apart.wav', 6, 3)], /^A session each/);
  for (const name of ['alone', 'apart'])
    await expect(
      page
        .getByRole('listitem')
        .filter({ hasText: `${name}.wav` })
        .getByText('Noise floor'),
    ).toBeVisible();
});

test('the camera and the recorder beside it are lined up by what both hear, a pick-up comes in and is put on a track', async ({ page }) => {
  const field = take('field.wav', 7.25, 20, 'volume=-8dB,lowpass=f=6000,aecho=0.8:0.7:11:0.4');
  await bringIn(page, [take('camera.wav', 0, 35), field], /^One session, a track each/);
  await openIt(page, 'camera');
  await page.getByRole('button', { name: 'Tracks …' }).click();
  await page.getByRole('button', { name: 'Line up with camera' }).click();
  await expect(page.getByText(/lined up: moved by 7\.2\d+ s/)).toBeVisible();
  await page.getByLabel('Recordings for this session').setInputFiles(take('pick-up.wav', 20, 2, 'anull', 96_000));
  const line = page.getByRole('dialog').getByRole('listitem').filter({ hasText: 'pick-up.wav' });
  await expect(line.getByText('on no track')).toBeVisible();
  await line.getByRole('button', { name: 'Behind camera' }).click();
  await page.keyboard.press('Escape');
  await new Desk(page, 35).saved();
  const { tracks } = await saved(page);
  expect(Math.abs(tracks[1]!.clips[0]!.startFrame / RATE_HZ - 7.25)).toBeLessThan(0.001);
  expect(tracks[0]!.clips.map(({ startFrame }) => startFrame / RATE_HZ)).toEqual([0, 35]);
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/0:35/).first()).toBeVisible();
});
