import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bringIn } from './support/desk.ts';
import { address, ProductServer, scratch } from './support/server.ts';
import { knownSound, writeWav } from './support/sounds.ts';

const sound = knownSound(10);

test('everything of the chain by keyboard: add, move, change, bypass, undo, redo', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('keys.wav', sound), 10);
  const order = () => page.locator('[data-treatment]').evaluateAll((cards) => cards.map((card) => card.getAttribute('data-treatment')));
  await page.keyboard.press('a');
  await page.getByRole('menuitem', { name: /^Gate/ }).press('Enter');
  await expect(page.locator('[data-treatment]')).toHaveCount(5);
  expect((await order())[4]).toBe('gate');

  await page.getByRole('button', { name: 'Move High-pass' }).focus();
  await page.keyboard.press('Space');
  await page.waitForTimeout(150);
  await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(150);
  await page.keyboard.press('Space');
  await expect.poll(order).toEqual(['hum-notch', 'high-pass', 'noise-reduction', 'gate', 'gate']);

  await page.locator('body').press('6');
  await desk.open('Hum notch');
  await expect(desk.ruler('Base')).toHaveAttribute('aria-valuenow', '60');
  await desk.ruler('Harmonics').press('ArrowRight');
  await expect(desk.ruler('Harmonics')).toHaveAttribute('aria-valuenow', '5');
  await desk.type('Width', '2,5 Hz');
  await expect(desk.ruler('Width')).toHaveAttribute('aria-valuenow', '2.5');
  await page.locator('body').press('b');
  await expect(page.getByRole('switch', { name: 'Hum notch on' })).toHaveAttribute('aria-checked', 'true');

  await page.getByRole('button', { name: /steps done/ }).click();
  for (const step of [
    'Add Gate',
    'Move High-pass',
    'Hum notch: Base 60 Hz',
    'Hum notch: Harmonics 5',
    'Hum notch: Width 2.5 Hz',
    'Use Hum notch',
  ])
    await expect(page.getByRole('dialog').getByRole('button', { name: step })).toBeVisible();
  await page.keyboard.press('Escape');
  for (let i = 0; i < 6; i++) await page.keyboard.press('Control+z');
  await expect(page.locator('[data-treatment]')).toHaveCount(4);
  expect(await order()).toEqual(['high-pass', 'hum-notch', 'noise-reduction', 'gate']);
  await page.keyboard.press('Control+Shift+z');
  await expect(page.locator('[data-treatment]')).toHaveCount(5);
  await desk.saved();
});

test('a drag over a ruler is one step, and a gate never opens below where it closes', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('rulers.wav', sound), 10);
  await desk.open('Gate');
  const box = (await desk.ruler('Opens at').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + 15);
  await page.mouse.down();
  for (let share = 0.5; share >= 0.1; share -= 0.05) await page.mouse.move(box.x + box.width * share, box.y + 15);
  await page.mouse.up();
  const opens = Number(await desk.ruler('Opens at').getAttribute('aria-valuenow'));
  expect(opens).toBeLessThan(-75);
  expect(Number(await desk.ruler('Closes at').getAttribute('aria-valuenow'))).toBe(opens);
  await expect(page.getByText('1 step done')).toBeVisible();
});

test('pictures: wave and spectrogram, scales, zoom until the floor is seen, a fold', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('pictures.wav', sound), 10);
  const ink = (lane: string) =>
    page.locator(`[data-lane=${lane}] canvas`).evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let sum = 0;
      for (let i = 3; i < data.length; i += 4) sum += data[i]!;
      return sum / (data.length / 4);
    });
  for (const lane of ['source', 'removed', 'result']) await expect.poll(() => ink(lane)).toBeGreaterThan(3);
  await page.keyboard.press('w');
  for (const lane of ['source', 'removed', 'result']) await expect.poll(() => ink(lane)).toBeGreaterThan(3);
  const decibel = await ink('source');
  await page.getByRole('radio', { name: 'Linear' }).click();
  await expect.poll(() => ink('source')).toBeLessThan(decibel / 2);
  const wide = await ink('source');
  for (let i = 0; i < 6; i++) await page.locator('body').press('.');
  await expect.poll(() => ink('source')).toBeGreaterThan(wide * 2);
  // Closer, to a hundredth of a second: single periods.
  await desk.strips.hover();
  for (let i = 0; i < 6; i++) await page.mouse.wheel(0, -700);
  const span = () =>
    page.evaluate(() => (window as unknown as { euphonosWorkbench: { view: { spanFrames: number } } }).euphonosWorkbench.view.spanFrames);
  await expect.poll(span).toBeLessThan(48_000);
  await expect.poll(() => ink('result')).toBeGreaterThan(1);
  await page.keyboard.press('f');
  await expect.poll(span).toBe(480_000);
  await page.getByRole('button', { name: /^Removed/ }).click();
  await expect(page.locator('[data-lane=removed] canvas')).toHaveCount(0);
});

test('bad files are told in words, and a good one beside them comes in', async ({ page }) => {
  await page.goto(address);
  const letter = join(scratch, 'letter "quoted".wav');
  const empty = join(scratch, 'empty.wav');
  writeFileSync(letter, 'not a sound '.repeat(100));
  writeFileSync(empty, '');
  await page.locator('input[type=file]').setInputFiles([letter, empty, writeWav('good beside.wav', sound)]);
  await page.getByRole('button', { name: /^A session each/ }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'No sound was found in the file' })).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'The file is empty (0 bytes)' })).toBeVisible();
  await expect(page.getByRole('listitem').filter({ hasText: 'good beside' }).getByText('Noise floor')).toBeVisible();
});

test('a session is renamed, deleted, brought back, and deleted for good', async ({ page }) => {
  await bringIn(page, address, writeWav('to be named.wav', sound), 10);
  await page.goto(address);
  // What is told at the bottom of the page is a list, too.
  const sessions = page.getByRole('list', { name: 'Sessions' }).getByRole('listitem');
  const line = sessions.filter({ hasText: 'to be named' });
  await line.hover();
  await line.getByRole('button', { name: /^Rename/ }).click();
  await page.getByRole('textbox', { name: 'Name of the session' }).fill('The miller’s “tale”');
  await page.keyboard.press('Enter');
  const renamed = sessions.filter({ hasText: 'The miller’s “tale”' });
  await renamed.hover();
  await renamed.getByRole('button', { name: /^Delete/ }).click();
  await expect(renamed).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(renamed).toHaveCount(1);
  await renamed.getByRole('checkbox').check();
  await page.getByRole('toolbar', { name: 'Chosen sessions' }).getByRole('button', { name: 'Delete' }).click();
  await expect(renamed).toHaveCount(0);
  await page.getByRole('radio', { name: 'Deleted' }).click();
  await expect(renamed).toContainText('goes for good in');
  await renamed.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Delete for good …' }).click();
  await page.getByRole('button', { name: 'Delete for good', exact: true }).click();
  await expect(renamed).toHaveCount(0);
});

test('sessions are gathered in a production, found by search, and put away with it', async ({ page }) => {
  for (const name of ['weir one', 'weir two', 'quay']) await bringIn(page, address, writeWav(`${name}.wav`, sound), 10);
  await page.goto(address);
  const line = (name: string) => page.getByRole('listitem').filter({ has: page.getByRole('link', { name, exact: true }) });
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill('weir');
  await expect(line('quay')).toHaveCount(0);
  await line('weir one').getByRole('checkbox').check();
  await line('weir two')
    .getByRole('checkbox')
    .click({ modifiers: ['Shift'] });
  await page.getByRole('combobox', { name: 'Move to a production' }).selectOption('new');
  await page.getByRole('textbox', { name: 'Its name' }).fill('River sounds');
  await page.getByRole('button', { name: /^Make it, move 2 sessions/ }).click();
  await expect(line('weir one')).toContainText('River sounds');
  await page.getByRole('searchbox', { name: 'Search sessions' }).fill('river');
  await expect(line('weir two')).toBeVisible();
  await page.getByRole('button', { name: 'Productions …' }).click();
  await page.getByRole('button', { name: 'Archive River sounds' }).click();
  await page.keyboard.press('Escape');
  await expect(line('weir one')).toHaveCount(0);
  await page.getByRole('radio', { name: 'Archive' }).click();
  await expect(line('weir one')).toBeVisible();
});

test('two windows on one session: the second is told and takes over, then the first is told; nothing is lost', async ({
  page,
  context,
}) => {
  const desk = await bringIn(page, address, writeWav('two windows.wav', sound), 10);
  await desk.turn('Gate', true);
  await desk.saved();
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByRole('dialog', { name: 'This session is open in another window' })).toBeVisible();
  await other.getByRole('button', { name: 'Work here instead' }).click();
  await expect(other.getByRole('dialog')).toHaveCount(0);
  await expect(other.getByRole('switch', { name: 'Gate on' })).toHaveAttribute('aria-checked', 'true');
  const before = (await other.getByText(/^Saved · revision/).textContent())!;
  await other.getByRole('switch', { name: 'Hum notch on' }).click();
  // Another revision than the one that was saved already.
  await expect(other.getByText(before, { exact: true })).toHaveCount(0);
  await expect(other.getByText(/^Saved · revision/)).toBeVisible();
  await expect(page.getByRole('dialog', { name: 'Another window has taken this session over' })).toBeVisible();
  await page.getByRole('button', { name: 'Work here instead' }).click();
  await expect(page.getByRole('switch', { name: 'Hum notch on' })).toHaveAttribute('aria-checked', 'true');
  await other.close();
});

test('a session that was saved from elsewhere is not overwritten: who edits it is asked', async ({ page }) => {
  const desk = await bringIn(page, address, writeWav('saved elsewhere.wav', sound), 10);
  await desk.saved();
  const id = /sessions\/([\w-]+)/.exec(page.url())![1]!;
  const { revision, document } = (await (await page.request.get(`${address}/api/sessions/${id}`)).json()) as {
    revision: number;
    document: { tracks: { chain: { treatments: { bypassed: boolean }[] } }[] };
  };
  document.tracks[0]!.chain.treatments[3]!.bypassed = false;
  expect((await page.request.put(`${address}/api/sessions/${id}/document`, { data: { revision, document } })).ok()).toBe(true);
  await page.getByRole('switch', { name: 'Hum notch on' }).click();
  await expect(page.getByRole('dialog', { name: 'This session was changed elsewhere' })).toBeVisible();
  await page.getByRole('button', { name: 'Go on with the saved state' }).click();
  await expect(page.getByRole('switch', { name: 'Gate on' })).toHaveAttribute('aria-checked', 'true');
  await expect(page.getByRole('switch', { name: 'Hum notch on' })).toHaveAttribute('aria-checked', 'false');
});

test('the server is killed: the page says so, keeps the work, and saves it when the server is back', async ({ page }) => {
  const server = await ProductServer.create({ EUPHONOS_DEMO: 'none' });
  try {
    const desk = await bringIn(page, server.address, writeWav('killed.wav', sound), 10);
    await server.kill('SIGKILL');
    await desk.turn('Gate', true);
    await expect(page.getByText('Not saved yet')).toBeVisible();
    await server.start();
    await desk.saved();
    await page.reload();
    await expect(page.getByRole('switch', { name: 'Gate on' })).toHaveAttribute('aria-checked', 'true');
  } finally {
    await server.kill();
  }
});

test('no serious barrier in any view, by day and in the evening', async ({ page }) => {
  await bringIn(page, address, writeWav('barriers.wav', sound), 10);
  const check = async (): Promise<void> => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(
      violations.filter(({ impact }) => impact === 'serious' || impact === 'critical').map(({ id, nodes }) => [id, nodes[0]?.html]),
    ).toEqual([]);
  };
  await check();
  await page.getByRole('button', { name: 'Evening page' }).click();
  await check();
  await page.getByRole('link', { name: /^Balance/ }).click();
  await expect(page.locator('[data-loudness=ready]')).toBeVisible();
  await check();
  await page.getByRole('link', { name: /Hand over/ }).click();
  await expect(page.getByRole('radio', { name: /Podcast, mono/ })).toBeVisible();
  await check();
  await page.getByRole('link', { name: 'Intake' }).click();
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await check();
});
