import { expect, test, type Page } from '@playwright/test';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { readTap, startTap } from './support/tap.ts';
import { address, scratch } from './support/server.ts';
import { knownSound, levelDb, RATE_HZ, readSamples, toneDb, writeWav } from './support/sounds.ts';

const SECONDS = 10;

interface ClipSeen {
  readonly id: string;
  readonly startFrame: number;
  readonly source: { readonly startFrame: number; readonly endFrame: number };
  readonly sound: { readonly kind: string };
  readonly gainDb: number;
  readonly fadeIn: { readonly frames: number };
  readonly chain: { readonly treatments: readonly { readonly kind: string }[] } | null;
  readonly line: readonly { readonly gainDb: number }[];
}
const clipsOf = (page: Page): Promise<readonly ClipSeen[]> =>
  page.evaluate(() => (window as unknown as { euphonosWorkbench: { sound: { clips: ClipSeen[] } } }).euphonosWorkbench.sound.clips);
const kinds = async (page: Page): Promise<string[]> => (await clipsOf(page)).map(({ sound }) => sound.kind);

test('clips by keyboard and by hand: split, silence, room tone, copy, an edge dragged, a gain line, given back', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('clips.wav', knownSound(SECONDS)), SECONDS);
  await desk.turn('Noise reduction', false);
  await desk.select(1.4, 3.1);
  await page.keyboard.press('t');
  await expect.poll(() => kinds(page)).toEqual(['recording', 'recording', 'recording']);
  await page.keyboard.press('m');
  await expect.poll(() => kinds(page)).toEqual(['recording', 'silence', 'recording']);
  await page.keyboard.press('g');
  await expect.poll(() => kinds(page)).toEqual(['recording']);

  // Room tone of a stretch with noise alone, over the first words.
  await desk.select(0.1, 1.2);
  await page.keyboard.press('Shift+R');
  await desk.select(1.4, 3.1);
  await page.keyboard.press('r');
  await expect.poll(() => kinds(page)).toEqual(['recording', 'room-tone', 'recording']);

  // The end is copied to where the playhead is, and everything after it makes room.
  await desk.select(9, 9.5);
  await page.keyboard.press('Control+c');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  await page.keyboard.press('Control+v');
  await expect.poll(async () => (await clipsOf(page)).length).toBe(4);
  const [first, second] = await clipsOf(page);
  expect(Math.abs(first!.source.startFrame - 9 * RATE_HZ)).toBeLessThan(0.05 * RATE_HZ);

  // The joint between the two is dragged to the right: the first one gets longer.
  const row = (await page.locator('[data-clips]').boundingBox())!;
  const x = await page.evaluate(
    (frame) => (window as unknown as { euphonosWorkbench: { view: { pxAt(frame: number): number } } }).euphonosWorkbench.view.pxAt(frame),
    second!.startFrame,
  );
  await page.mouse.move(row.x + x, row.y + 18);
  await page.mouse.down();
  await page.mouse.move(row.x + x + 10, row.y + 18);
  await page.mouse.move(row.x + x + 25, row.y + 18);
  await page.mouse.up();
  await expect.poll(async () => (await clipsOf(page))[1]!.startFrame).toBeGreaterThan(second!.startFrame + 0.1 * RATE_HZ);

  // Its crossfade, by the handle at the top: 20 px to the right, half of it lies before the joint.
  const joint = (await clipsOf(page))[1]!;
  const framesPerPx = await page.evaluate(
    () => (window as unknown as { euphonosWorkbench: { view: { framesPerPx: number } } }).euphonosWorkbench.view.framesPerPx,
  );
  const edge = row.x + joint.startFrame / framesPerPx;
  await page.mouse.move(edge + 4, row.y + 4);
  await page.mouse.down();
  await page.mouse.move(edge + 20, row.y + 4, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Math.abs((await clipsOf(page))[1]!.fadeIn.frames - 40 * framesPerPx)).toBeLessThan(3 * framesPerPx);

  // A point of the gain line, put on the result and pulled down.
  const line = page.locator('[data-gain-line]');
  const box = (await line.boundingBox())!;
  await page.mouse.dblclick(box.x + box.width / 2, box.y + box.height / 2);
  const point = page.locator('[data-gain-point]');
  await expect(point).toHaveCount(1);
  const at = (await point.boundingBox())!;
  await page.mouse.move(at.x + 5, at.y + 5);
  await page.mouse.down();
  await page.mouse.move(at.x + 5, at.y + 45, { steps: 4 });
  await page.mouse.up();
  await expect
    .poll(async () => (await clipsOf(page)).find(({ line: points }) => points.length === 1)?.line[0]?.gainDb ?? 0)
    .toBeLessThan(-5);
  await desk.saved();
  const done = Number(/\d+/.exec((await page.getByText(/steps done/).textContent())!)![0]);
  for (let i = 0; i < done; i++) await page.keyboard.press('Control+z');
  await expect
    .poll(async () => (await clipsOf(page)).map(({ source }) => source))
    .toEqual([{ startFrame: 0, endFrame: SECONDS * RATE_HZ }]);
});

test('a clip has a chain of its own: its hum alone is notched, in the file too', async ({ page }) => {
  const sound = knownSound(SECONDS);
  const desk = await bringIn(page, address, writeWav('own chain.wav', sound), SECONDS);
  for (const title of ['High-pass', 'Noise reduction']) await desk.turn(title, false);
  await desk.select(3.5, 5.5);
  await page.keyboard.press('t');
  await expect.poll(async () => (await clipsOf(page)).length).toBe(3);
  await page.keyboard.press('Escape');
  await page.keyboard.press(']');
  await page.keyboard.press(']');
  await page.keyboard.press('[');
  await page.getByRole('radio', { name: /this clip/ }).click();
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Hum notch/ }).press('Enter');
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.saved();
  await page.getByRole('button', { name: /^Render the edit/ }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Download/ }).click()]);
  const path = join(scratch, 'own chain, out.wav');
  await download.saveAs(path);
  const out = readSamples(path);
  expect(out.length).toBe(sound.length);
  const fall = (from: number, to: number): number =>
    toneDb(sound, 50, from * RATE_HZ, to * RATE_HZ) - toneDb(out, 50, from * RATE_HZ, to * RATE_HZ);
  expect(fall(4, 5.2)).toBeGreaterThan(20);
  expect(Math.abs(fall(0.5, 2.5))).toBeLessThan(0.1);
  expect(Math.abs(fall(6.5, 9))).toBeLessThan(0.1);
});

test('several clips are chosen by key and by hand: levelled, silenced and treated together', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('many clips.wav', knownSound(SECONDS)), SECONDS);
  for (const [from, to] of [
    [1, 3],
    [5, 7],
  ] as const) {
    await desk.select(from, to);
    await page.keyboard.press('t');
  }
  await expect.poll(async () => (await clipsOf(page)).length).toBe(5);
  await page.keyboard.press('Escape');
  const row = page.locator('[data-clips]');
  const box = (await row.boundingBox())!;
  const at = (seconds: number) => ({ position: { x: (seconds / SECONDS) * box.width, y: box.height - 6 } });
  await row.click(at(2));
  await row.click({ ...at(6), modifiers: ['Control'] });
  const sheet = page.getByRole('region', { name: 'Clip', exact: true });
  await expect(sheet).toContainText('and 1 more');
  await page.keyboard.press('d');
  await expect.poll(async () => (await clipsOf(page)).map(({ gainDb }) => gainDb)).toEqual([0, -3, 0, -3, 0]);
  // One more on the right, then all of them.
  await page.keyboard.press('}');
  await expect(sheet).toContainText('and 2 more');
  await page.keyboard.press('Control+a');
  await expect(sheet).toContainText('and 4 more');
  await page.getByRole('radio', { name: /this clip/ }).click();
  await page.keyboard.press('q');
  const dialog = page.getByRole('dialog', { name: 'Chains for 5 clips' });
  await dialog.locator('[data-chain-line="Computer beside the desk"]').getByRole('button', { name: 'Take' }).click();
  const chained = async () => (await clipsOf(page)).map(({ chain }) => chain?.treatments.length ?? 0);
  await expect.poll(async () => new Set(await chained()).size).toBe(1);
  expect((await chained())[0]).toBeGreaterThan(1);
  await row.click(at(2));
  await row.click({ ...at(9), modifiers: ['Shift'] });
  await expect(sheet).toContainText('and 3 more');
  const [all] = await chained();
  await desk.open('High-pass');
  await page.getByRole('button', { name: 'Remove High-pass' }).click();
  await page.getByRole('button', { name: 'This one on all 4 clips' }).click();
  await expect.poll(chained).toEqual([all, ...Array<number>(4).fill(all! - 1)]);
  await page.keyboard.press('m');
  await expect.poll(() => kinds(page)).toEqual(['recording', ...Array<string>(4).fill('silence')]);
});

test('two people on two channels: heard together, one lowered, the whole filtered, rendered as a mix', async ({ page }) => {
  const mono = knownSound(SECONDS);
  const tone = Float32Array.from(mono, (_, n) => 0.1 * Math.sin((2 * Math.PI * 1500 * n) / RATE_HZ));
  const both = new Float32Array(2 * mono.length);
  mono.forEach((x, n) => {
    both[2 * n] = x;
    both[2 * n + 1] = tone[n]!;
  });
  const path = writeWav('two people.wav', both, 2);
  const desk = await bringIn(page, address, path, SECONDS);
  for (const title of ['High-pass', 'Noise reduction']) await desk.turn(title, false);
  await page.getByRole('button', { name: 'Split into tracks' }).click();
  await page.getByRole('radio', { name: 'all together' }).click();
  await page.getByRole('spinbutton', { name: 'Level of channel 2' }).fill('-12');
  await page.getByRole('spinbutton', { name: 'Level of channel 1' }).fill('-6');
  await page.getByRole('radio', { name: /the whole/ }).click();
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^High-pass/ }).press('Enter');
  await desk.type('Cutoff', '400');
  // What is heard: the other person's tone at its level, and what the whole takes out of the first one.
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(2500);
  const { samples: heard } = await readTap(page);
  await desk.stop();
  const from = heard.length - 1.5 * RATE_HZ;
  expect(Math.abs(toneDb(heard, 1500, from, heard.length) + 32)).toBeLessThan(0.5);
  const firstHeard = levelDb(heard, from, heard.length);
  expect(firstHeard).toBeLessThan(-30);

  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.saved();
  await page.getByRole('button', { name: 'Render the mix of 2 tracks' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Download/ }).click()]);
  const file = join(scratch, 'two people, out.wav');
  await download.saveAs(file);
  const out = readSamples(file);
  expect(out.length).toBe(mono.length);
  // 0.1 at -12 dB.
  expect(Math.abs(toneDb(out, 1500, RATE_HZ, 9 * RATE_HZ) + 32)).toBeLessThan(0.3);
  expect(toneDb(mono, 100, 4 * RATE_HZ, 5 * RATE_HZ) - toneDb(out, 100, 4 * RATE_HZ, 5 * RATE_HZ)).toBeGreaterThan(30);
  expect(levelDb(out)).toBeLessThan(levelDb(mono));
});
