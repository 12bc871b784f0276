import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { bringIn, Desk } from './support/desk.ts';
import { address, scratch } from './support/server.ts';
import { levelDb, RATE_HZ, readSamples, toneDb, writeWav } from './support/sounds.ts';

const root = join(import.meta.dirname, '..');

interface Finding {
  readonly kind: string;
  readonly count?: number;
}
const surveyOf = (path: string): Finding[] =>
  (
    JSON.parse(execFileSync(process.execPath, [join(root, 'apps/cli/dist-bundle/main.js'), 'survey', path], { encoding: 'utf8' })) as {
      findings: Finding[];
    }
  ).findings;

/** Opens the survey of a demo recording, once it is done. */
async function openSurvey(page: Page, name: string, seconds: number): Promise<Desk> {
  await page.goto(address);
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill(name === 'guide' ? 'guide.mov' : `${name}.flac`);
  await page.getByRole('link', { name: `The ${name}`, exact: true }).click();
  await page.getByRole('link', { name: /^Survey/ }).click();
  await expect(page.locator('[data-finding]').first()).toBeVisible();
  return new Desk(page, seconds);
}
/** On to Treat, once its strips are there. */
async function toTreat(page: Page): Promise<void> {
  await page.getByRole('link', { name: /^Treat/ }).click();
  await expect(page.getByRole('complementary', { name: 'Chain' })).toBeVisible();
}
const finding = (page: Page, kind: string) => page.locator(`[data-finding=${kind}]`);
const heard = (page: Page) =>
  page.evaluate(
    () => (window as unknown as { euphonosWorkbench: { player: { status: string; frame: number } } }).euphonosWorkbench.player.status,
  );

test('from findings to a mended, measured file: clicks of the miller', async ({ page }) => {
  const before = surveyOf(join(root, 'demo/miller.flac')).find(({ kind }) => kind === 'clicks')!;
  expect(before.count).toBeGreaterThan(12);
  const desk = await openSurvey(page, 'miller', 25.2);
  await expect(finding(page, 'clicks')).toContainText('a minute');
  await finding(page, 'clicks').hover();
  await expect(page.locator('[data-marks]')).not.toHaveAttribute('data-marks', '0');

  // A click on a mark loops that place.
  await finding(page, 'clicks')
    .getByRole('button', { name: /^Loop Clicks at/ })
    .nth(3)
    .click();
  await expect(page.getByRole('button', { name: /^loop/ })).toHaveAttribute('aria-pressed', 'true');
  await finding(page, 'clicks')
    .getByRole('button', { name: /Take this/ })
    .click();
  await expect(finding(page, 'clicks')).toContainText('Clicks is in the chain');

  await toTreat(page);
  await desk.open('Clicks');
  await expect(page.locator('[data-effect-of=clicks]')).toContainText(/[1-9]\d*\s*clicks? mended/);

  // It is rendered in the background for the loop and switches in; what it takes out is heard alone, and the lanes come back.
  await desk.play();
  await page.locator('[data-effect-of=clicks]').getByRole('button', { name: 'alone' }).click();
  await expect(page.locator('[data-aside]')).toBeVisible();
  await expect.poll(() => heard(page)).toBe('playing');
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-aside]')).toHaveCount(0);
  await desk.stop();

  await page.getByRole('link', { name: /^Hand over/ }).click();
  const path = join(scratch, 'miller-mended.wav');
  await desk.deliver(path);
  expect(surveyOf(path).find(({ kind }) => kind === 'clicks')?.count ?? 0).toBeLessThan(before.count! / 4);
});

test('from a finding to a file without its hum, undone and taken again', async ({ page }) => {
  const desk = await openSurvey(page, 'narrator', 51.4);
  await expect(finding(page, 'hum')).toContainText('50');
  await finding(page, 'hum')
    .getByRole('button', { name: /Take this/ })
    .click();
  await expect(finding(page, 'hum')).toContainText('is in the chain');
  await page.keyboard.press('Control+z');
  await expect(finding(page, 'hum').getByRole('button', { name: /Take this/ })).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await toTreat(page);
  await desk.open('Hum lines');
  await expect(page.getByRole('switch', { name: 'Harmonic 1, 50 Hz' })).toHaveAttribute('aria-checked', 'true');
  await page.getByRole('switch', { name: 'Harmonic 6, 300 Hz' }).click();
  await expect(page.getByText(/Hum lines: harmonics on|steps? done/).first()).toBeVisible();
  await page.getByRole('link', { name: /^Hand over/ }).click();
  const path = join(scratch, 'narrator-mended.wav');
  await desk.deliver(path);
  const [source, result] = [readSamples(join(root, 'demo/narrator.flac')), readSamples(path)];
  // In the second half of the pause before the first words and in the last pause: 50 Hz, against what the level was raised by.
  const [from, to] = [Math.round(49.8 * RATE_HZ), Math.round(51.2 * RATE_HZ)];
  expect(toneDb(source, 50, from, to)).toBeGreaterThan(-50);
  expect(toneDb(result, 50, from, to)).toBeLessThan(-70);
});

test('a box on the spectrogram is replaced by what is around it', async ({ page }) => {
  const desk = await openSurvey(page, 'guide', 23.7);
  await toTreat(page);
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Spots/ }).press('Enter');
  const strip = (await page.locator('[data-lane=source]').boundingBox())!;
  await page.mouse.move(strip.x + strip.width * 0.57, strip.y + strip.height * 0.2);
  await page.mouse.down();
  await page.mouse.move(strip.x + strip.width * 0.6, strip.y + strip.height * 0.35, { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('[data-box]').first()).toBeVisible();
  await desk.treatment('Spots').getByRole('button', { name: 'Replace it' }).click();
  await expect(desk.treatment('Spots')).toContainText('1 spot');
  await expect(desk.treatment('Spots')).toContainText(/\d+–\d+ Hz/);
  await desk.saved();
  await page.reload();
  await expect(page.locator('[data-treatment=spots]')).toContainText('1 spot');
});

test('bands of tone are added, dragged on the chart and swept by ear', async ({ page }) => {
  const desk = await openSurvey(page, 'boatwright', 19);
  await expect(finding(page, 'clipping')).toContainText('peak');
  await expect(finding(page, 'dropouts')).toContainText('hole');
  await toTreat(page);
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Tone/ }).press('Enter');
  await desk.treatment('Tone').getByRole('button', { name: 'Bell' }).first().click();
  const chart = (await page.getByRole('img', { name: 'Tone over the spectrum' }).boundingBox())!;
  const handle = (await desk.treatment('Tone').locator('svg rect.cursor-move').boundingBox())!;
  await page.mouse.move(handle.x + 5, handle.y + 5);
  await page.mouse.down();
  await page.mouse.move(handle.x - 60, handle.y + 30, { steps: 6 });
  await page.mouse.up();
  expect(Number(await desk.ruler('Gain').getAttribute('aria-valuenow'))).toBeLessThan(-5);
  expect(Number(await desk.ruler('Frequency').getAttribute('aria-valuenow'))).toBeLessThan(700);
  await desk.treatment('Tone').getByRole('button', { name: 'sweep' }).click();
  await page.mouse.move(chart.x + chart.width / 2, chart.y + 40);
  await page.mouse.down();
  await expect(page.locator('[data-aside]')).toContainText('Hz');
  await page.mouse.up();
  await expect(page.locator('[data-aside]')).toHaveCount(0);
});

test('the survey can be reached and read by everybody', async ({ page }) => {
  await openSurvey(page, 'miller', 25.2);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 90)).join(' | ')}`)).toEqual([]);
});

test('an interview on two channels: nobody’s words are taken for noise, and what is wrong on one side is said so', async ({ page }) => {
  const both = interview();
  await bringIn(page, address, writeWav('an interview.wav', both, 2), 20);
  await page.getByRole('link', { name: /^Survey/ }).click();
  await expect(finding(page, 'noise-passages')).toBeVisible();
  await expect(finding(page, 'hum')).toContainText('right only');
  await expect(finding(page, 'noise-floor')).toHaveCount(2);
  await page.getByRole('button', { name: /^Take all/ }).click();
  await page.getByRole('button', { name: 'Take it for both together' }).click();
  await toTreat(page);
  // What was taken as noise alone, on either side: no word of anybody.
  const [id] = /[0-9a-f-]{36}/.exec(page.url())!;
  await new Desk(page, 20).saved();
  const { document } = (await (await page.request.get(`${address}/api/sessions/${id}`)).json()) as {
    document: { tracks: { noise: { spans: { startFrame: number; endFrame: number }[] } }[] };
  };
  const { spans } = document.tracks[0]!.noise;
  expect(spans.length).toBeGreaterThan(0);
  for (const { startFrame, endFrame } of spans)
    for (const side of [0, 1]) {
      const heard = Float32Array.from({ length: endFrame - startFrame }, (_, n) => both[2 * (startFrame + n) + side]!);
      expect(levelDb(heard)).toBeLessThan(-45);
    }
});

test('an interview, split before anything is taken: each person has what their own channel needs, and a noise without a word of theirs', async ({
  page,
}) => {
  const both = interview();
  await bringIn(page, address, writeWav('an interview, split.wav', both, 2), 20);
  await page.getByRole('link', { name: /^Survey/ }).click();
  await expect(finding(page, 'noise-passages')).toBeVisible();
  await page.getByRole('button', { name: /^Take all/ }).click();
  await page.getByRole('button', { name: 'Split, and take it for each' }).click();
  await toTreat(page);
  await expect(page.getByRole('region', { name: 'Tracks' }).getByRole('button', { name: 'channel 2', exact: true })).toBeVisible();
  const [id] = /[0-9a-f-]{36}/.exec(page.url())!;
  await new Desk(page, 20).saved();
  interface Split {
    readonly noise: { readonly spans: readonly { readonly startFrame: number; readonly endFrame: number }[] };
    readonly reel: readonly { readonly channels: readonly number[] }[];
    readonly chain: { readonly treatments: readonly { readonly kind: string; readonly bypassed?: boolean }[] };
  }
  const { document } = (await (await page.request.get(`${address}/api/sessions/${id}`)).json()) as { document: { tracks: Split[] } };
  expect(document.tracks.map(({ reel }) => reel[0]!.channels)).toEqual([[0], [1]]);
  for (const [side, { noise, chain }] of document.tracks.entries()) {
    expect(noise.spans.length).toBeGreaterThan(0);
    for (const { startFrame, endFrame } of noise.spans)
      expect(levelDb(Float32Array.from({ length: endFrame - startFrame }, (_, n) => both[2 * (startFrame + n) + side]!))).toBeLessThan(-45);
    const hum = chain.treatments.filter(({ kind, bypassed }) => kind.startsWith('hum') && !bypassed);
    expect(hum.length > 0).toBe(side === 1);
  }
});

/** A talks on the left, then B on the right, in turns; noise of its own on each side, hum on the right. Interleaved. */
function interview(): Float32Array {
  let state = 11;
  const random = (): number => ((state = (state * 48271) % 2147483647) / 2147483647) * 2 - 1;
  const turns = {
    0: [
      [1.5, 6],
      [11, 14.5],
    ],
    1: [
      [7, 10],
      [15.5, 19],
    ],
  } as const;
  const voice = (t: number, hz: number): number => {
    const syllable = Math.max(0, Math.sin(2 * Math.PI * 2.7 * t)) ** 0.5;
    let sum = 0;
    for (let h = 1; h < 18; h++) sum += Math.sin(2 * Math.PI * h * hz * (t + 0.0006 * Math.sin(5 * t))) / h;
    return 0.12 * syllable * sum;
  };
  return Float32Array.from({ length: 2 * 20 * RATE_HZ }, (_, i) => {
    const side = (i % 2) as 0 | 1;
    const t = (i >> 1) / RATE_HZ;
    const talks = turns[side].some(([from, to]) => t >= from && t < to);
    const noise = (side === 0 ? 0.0006 : 0.0016) * (random() + random() + random());
    return noise + (talks ? voice(t, side === 0 ? 115 : 205) : 0) + (side === 1 ? 0.004 * Math.sin(2 * Math.PI * 50 * t) : 0);
  });
}
