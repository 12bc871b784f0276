import { expect, test } from '@playwright/test';
import { join } from 'node:path';
import { bringIn, Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { knownSound, levelDb, measure, RATE_HZ, readSamples, toneDb, writeWav } from './support/sounds.ts';
import { readTap, startTap, straight } from './support/tap.ts';

const SECONDS = 10;
const sound = knownSound(SECONDS);

type Lanes<T> = Record<'source' | 'removed' | 'result', T>;

test('a recording comes in, is cleaned by ear, and comes out at the right loudness', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('whole way.wav', sound), SECONDS);

  // Noise: too short is told, speech is told, a good passage is taken.
  await desk.select(0.3, 0.5);
  await page.keyboard.press('n');
  await expect(page.getByText(/^Too short: 0\.\d\d s/).last()).toBeVisible();
  await desk.select(0.4, 2.4);
  await page.keyboard.press('n');
  await expect(
    page.getByText(/(Speech|A breath or a soft sound|Another sound) is in it: for \d\.\d\d s the level rises, by \d+\.\d dB/).last(),
  ).toBeVisible();
  await desk.select(0.1, 1.3);
  await expect(page.locator('[data-judgement=clean]')).toBeVisible();
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();

  // Loop, play, hear.
  await desk.select(6.2, 9);
  await page.keyboard.press('l');
  await desk.play();
  await startTap(page);
  await expect.poll(async () => Number((await page.locator('[data-meter=RMS]').textContent())!.replace('−', '-'))).toBeGreaterThan(-40);
  await page.waitForTimeout(5000);
  const looped = await readTap(page);
  expect(new Set(looped.offsets.map(({ offset }) => offset)).size, 'the loop came round').toBeGreaterThan(1);
  expect(levelDb(looped.samples)).toBeGreaterThan(-40);

  // The chain: hum at 50 Hz gone, gaps lower.
  await desk.turn('Hum notch', true);
  await desk.open('Noise reduction');
  await desk.type('Reduction', '18');
  await desk.turn('Gate', true);
  await desk.stop();
  await desk.saved();

  // Hand over.
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('radio', { name: /Podcast, mono/ }).click();
  await desk.saved();
  await page.getByRole('button', { name: 'Render the whole recording' }).click();
  await expect(page.locator('[data-line]')).toHaveCount(8);
  for (const line of ['Integrated loudness', 'True peak']) await expect(page.locator(`[data-line="${line}"]`)).toContainText('passed');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Download/ }).click()]);
  const out = join(scratch, 'delivered.wav');
  await download.saveAs(out);
  expect(download.suggestedFilename()).toBe('whole way (cleaned).wav');
  const figures = measure(out);
  expect(Math.abs(figures['integratedLufs']! + 19)).toBeLessThanOrEqual(0.3);
  expect(figures['truePeakDbtp']!).toBeLessThanOrEqual(-1);
  expect(figures['durationSeconds']).toBe(SECONDS);
  const samples = readSamples(out);
  const gain = figures['integratedLufs']! - measure(join(scratch, 'whole way.wav'))['integratedLufs']!;
  expect(toneDb(samples, 50, 4800, 67200) - gain, 'hum').toBeLessThan(toneDb(sound, 50, 4800, 67200) - 25);
  expect(levelDb(samples, 24000, 62000) - gain, 'gap').toBeLessThan(levelDb(sound, 24000, 62000) - 15);

  // The same as MP3 at another rate: the sheet is of that file, decoded again.
  await page.getByRole('radio', { name: 'MP3' }).click();
  await page.getByRole('radio', { name: '44.1 kHz' }).click();
  await desk.saved();
  await page.getByRole('button', { name: 'Render the whole recording' }).click();
  await expect(page.locator('[data-line="Bit rate"]')).toContainText(/19[2-9]kbit/);
  for (const line of ['Integrated loudness', 'True peak', 'Sample rate', 'Length'])
    await expect(page.locator(`[data-line="${line}"]`)).toContainText('passed');
  const [coded] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download, MP3, 192 kbit/s' }).click()]);
  expect(coded.suggestedFilename()).toBe('whole way (cleaned).mp3');
  const mp3 = join(scratch, 'delivered.mp3');
  await coded.saveAs(mp3);
  expect(measure(mp3)).toMatchObject({ durationSeconds: SECONDS, sampleRateHz: 44_100 });
  expect(Math.abs(measure(mp3)['integratedLufs']! + 19)).toBeLessThanOrEqual(0.1);

  // Still there after a reload.
  await page.reload();
  await expect(page.locator('[data-line]')).toHaveCount(8);
  await page.getByRole('link', { name: /Treat/ }).click();
  await desk.open('Noise reduction');
  await expect(desk.ruler('Reduction')).toHaveAttribute('aria-valuenow', '18');
  await expect(page.getByText(/noise passage · 1\.\d\d s/)).toBeVisible();
});

test('a control that is moved while it plays is heard within 100 ms, without a click, a gap or a stop', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('moved.wav', sound), SECONDS);
  await desk.turn('Noise reduction', false);
  await desk.open('High-pass');
  await desk.type('Cutoff', '20');
  await page.keyboard.press('Escape');
  // A steady stretch: noise, hum and the tone of 100 Hz.
  await desk.select(3.2, 5.8);
  await page.keyboard.press('l');
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(700);
  await desk.ruler('Cutoff').focus();
  const movedAt = await page.evaluate(() => {
    const { node } = (window as unknown as { euphonosWorkbench: { player: { node: AudioWorkletNode } } }).euphonosWorkbench.player;
    document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key: 'End', bubbles: true, cancelable: true }));
    return Math.round(node.context.currentTime * node.context.sampleRate);
  });
  await expect(desk.ruler('Cutoff')).toHaveAttribute('aria-valuenow', '500');
  await page.waitForTimeout(800);
  const { samples, startFrame } = await readTap(page);
  const moved = movedAt - startFrame;
  const before = toneDb(samples, 100, moved - 9600, moved);
  // 100 ms after the movement, measured over the 20 ms that follow: 100 Hz under a 24 dB/oct high-pass at 500 Hz is down by 56 dB in the end.
  expect(toneDb(samples, 100, moved + 4800, moved + 5760), 'heard after 100 ms').toBeLessThan(before - 6);
  expect(toneDb(samples, 100, moved + 14400, moved + 24000), 'settled').toBeLessThan(before - 45);
  // No gap: the sound never stops. No click: no step larger than the sound itself makes.
  let silent = 0,
    longest = 0,
    step = 0,
    usual = 0;
  for (let n = 1; n < samples.length; n++) {
    silent = Math.abs(samples[n]!) < 1e-6 ? silent + 1 : 0;
    longest = Math.max(longest, silent);
    const change = Math.abs(samples[n]! - samples[n - 1]!);
    if (n < moved) usual = Math.max(usual, change);
    step = Math.max(step, change);
  }
  expect(longest).toBeLessThan(16);
  expect(step).toBeLessThan(usual * 1.15);
  await desk.stop();
});

test('a jump into a new loop, right after a session was opened and while it plays, is obeyed every time', async ({ page }) => {
  const path = writeWav('jumps.wav', knownSound(40));
  const desk = await bringIn(page, address, path, 40);
  for (const from of [20, 26, 32]) {
    await page.reload();
    await expect(desk.strips).toBeVisible();
    await desk.play();
    await desk.select(from, from + 3);
    await page.keyboard.press('l');
    await page.waitForTimeout(1200);
    const { status, seconds } = await page.evaluate(() => {
      const { player, sampleRateHz } = (
        window as unknown as { euphonosWorkbench: { player: { status: string; frame: number }; sampleRateHz: number } }
      ).euphonosWorkbench;
      return { status: player.status, seconds: player.frame / sampleRateHz };
    });
    expect(status).toBe('playing');
    expect(seconds).toBeGreaterThan(from - 0.2);
    expect(seconds).toBeLessThan(from + 3.2);
    await desk.stop();
  }
});

test('source, removed and result: aligned to the sample, and equally loud when asked', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('lanes.wav', sound), SECONDS);
  await desk.turn('High-pass', false);
  await page.keyboard.press('1');
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(900);
  const source = straight(await readTap(page));
  await desk.stop();
  const expected = sound.subarray(source.frame, source.frame + source.samples.length);
  expect(source.samples.length).toBeGreaterThan(20_000);
  // From a tenth of a second on, when the fade in is over.
  expect(
    source.samples.every((x, n) => n < 4800 || x === expected[n]),
    'without a filter the source is the recording, to the bit',
  ).toBe(true);

  await desk.turn('High-pass', true);
  await desk.turn('Hum notch', true);
  /** A lane of the same stretch, from its start. */
  const lane = async (key: string) => {
    await page.keyboard.press(key);
    await page.evaluate(
      (frame) =>
        (window as unknown as { euphonosWorkbench: { player: { seek(frame: number): void } } }).euphonosWorkbench.player.seek(frame),
      2 * RATE_HZ,
    );
    // Until the track has been listened through, two starts may know differently much of what came before.
    await expect(page.locator('[data-not-exact]')).toHaveCount(0);
    await readTap(page);
    await desk.play();
    await page.waitForTimeout(2500);
    const heard = straight(await readTap(page));
    await desk.stop();
    return heard;
  };
  const compared = await lane('1');
  const [removed, result] = [await lane('2'), await lane('3')];
  let worst = 0;
  let met = 0;
  // The first tenth of a second after a start holds the fade in.
  for (let n = 4800; n < compared.samples.length; n++) {
    const [r, m] = [n + compared.frame - removed.frame, n + compared.frame - result.frame];
    if (r < 4800 || m < 4800 || r >= removed.samples.length || m >= result.samples.length) continue;
    met++;
    worst = Math.max(worst, Math.abs(removed.samples[r]! + result.samples[m]! - compared.samples[n]!));
  }
  expect(met).toBeGreaterThan(20_000);
  expect(worst, 'source = removed + result').toBeLessThan(3e-6);

  await page.keyboard.press('e');
  await expect(page.getByRole('switch', { name: 'Equal loudness' })).toHaveAttribute('aria-checked', 'true');
  const { gains, figures } = await page.evaluate(() => {
    const { laneGainsDb, figures } = (
      window as unknown as { euphonosWorkbench: { laneGainsDb: Lanes<number>; figures: Lanes<{ integratedLufs: number }> } }
    ).euphonosWorkbench;
    return { gains: laneGainsDb, figures };
  });
  expect(Math.abs(gains.removed)).toBeGreaterThan(0.1);
  for (const lane of ['source', 'removed', 'result'] as const)
    expect(figures[lane].integratedLufs + gains[lane]).toBeCloseTo(figures.source.integratedLufs, 6);
  const again = await lane('1');
  for (let n = 4800; n < again.samples.length; n++) {
    const before = compared.samples[n + again.frame - compared.frame];
    if (before !== undefined && n + again.frame - compared.frame > 4800) worst = Math.max(worst, Math.abs(again.samples[n]! - before));
  }
  expect(worst, 'the source itself keeps its level').toBeLessThan(3e-6);
});

test('what was heard is what is rendered: within -90 dBFS', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('same.wav', sound), SECONDS);
  await desk.select(0.1, 1.3);
  await page.keyboard.press('n');
  await expect(page.locator('[data-profile=ready]')).toBeVisible();
  await desk.turn('Hum notch', true);
  await desk.turn('Gate', true);
  await page.keyboard.press('Home');
  await desk.play();
  await startTap(page);
  await page.waitForTimeout(9000);
  const heard = straight(await readTap(page));
  await desk.saved();
  // Without a loudness to reach, and a ceiling that nothing touches, the file is the chain's result.
  await page.getByRole('link', { name: /Hand over/ }).click();
  await page.getByRole('switch', { name: 'Bring to a loudness' }).click();
  await desk.deliver(join(scratch, 'same-out.wav'));
  const rendered = readSamples(join(scratch, 'same-out.wav'));
  expect(rendered.length).toBe(sound.length);
  const length = Math.min(heard.samples.length, rendered.length - heard.frame);
  expect(length).toBeGreaterThan(5 * RATE_HZ);
  const difference = Float32Array.from({ length }, (_, n) => heard.samples[n]! - rendered[heard.frame + n]!);
  expect(levelDb(heard.samples.subarray(0, length))).toBeGreaterThan(-40);
  expect(levelDb(difference)).toBeLessThan(-90);
  expect(
    Math.max(
      ...Array.from({ length: 50 }, (_, i) => levelDb(difference, Math.floor((i * length) / 50), Math.floor(((i + 1) * length) / 50))),
    ),
  ).toBeLessThan(-90);
});

test('the demo is there, and opens', async ({ page }) => {
  await page.goto(address);
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill('tidemill narrator');
  await page.getByRole('link', { name: 'The narrator', exact: true }).click();
  const desk = new Desk(page, 51.4);
  await expect(desk.strips).toBeVisible();
  await expect(page.locator('[data-telling=source]')).toContainText('floor −45.6 dBFS');
});
