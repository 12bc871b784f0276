import { expect, test, type Page } from '@playwright/test';
import { ProductServer } from './support/server.ts';
import { knownSound, writeWav } from './support/sounds.ts';

let server: ProductServer;
test.beforeAll(async () => void (server = await ProductServer.create({ EUPHONOS_DEMO: 'none' })));
test.afterAll(() => server.kill());

/** A line of a studio at the end of a long road: so many bytes a second go out. */
async function slowly(page: Page): Promise<void> {
  const line = await page.context().newCDPSession(page);
  await line.send('Network.enable');
  await line.send('Network.emulateNetworkConditions', {
    offline: false,
    latency: 5,
    downloadThroughput: -1,
    uploadThroughput: 2_000_000,
  });
}

/** Where parts of a file began that were sent from now on. */
function offsets(page: Page): number[] {
  const known: number[] = [];
  page.on('request', (request) => request.method() === 'PATCH' && known.push(Number(request.headers()['upload-offset'])));
  return known;
}

async function sentShare(page: Page): Promise<number> {
  const text = await page.getByText(/% sent/).textContent();
  return Number(/(\d+) % sent/.exec(text ?? '')?.[1] ?? 0);
}

test('a file goes on where it was: when the server was killed, and when the page was closed', async ({ browser }) => {
  const context = await browser.newContext();
  let page = await context.newPage();
  await page.goto(server.address);
  await slowly(page);
  let from = offsets(page);
  const one = writeWav('far one.wav', knownSound(120));
  await page.locator('input[type=file]').setInputFiles(one);
  await expect.poll(() => sentShare(page)).toBeGreaterThan(25);
  await server.kill('SIGKILL');
  await expect(page.getByText('it goes on from where it was when it does')).toBeVisible();
  await server.start();
  const line = page.getByRole('listitem').filter({ hasText: 'far one' });
  await expect(line.getByText('Noise floor')).toBeVisible();
  expect(from.some((offset) => offset > 500_000)).toBe(true);
  await expect(line).toContainText('2:00');

  const two = writeWav('far two.wav', knownSound(121));
  await page.locator('input[type=file]').setInputFiles(two);
  await expect.poll(() => sentShare(page)).toBeGreaterThan(25);
  await page.close();
  page = await context.newPage();
  await page.goto(server.address);
  await expect(page.getByText('far two.wav')).toBeVisible();
  await expect(page.getByText('was on its way')).toBeVisible();
  from = offsets(page);
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('button', { name: 'Choose it again' }).click()]);
  await chooser.setFiles(two);
  const second = page.getByRole('listitem').filter({ hasText: 'far two' });
  await expect(second.getByText('Noise floor')).toBeVisible();
  expect(from[0]).toBeGreaterThan(500_000);
  await expect(page.getByText('was on its way')).toHaveCount(0);
  // Given up: nothing of it stays, here or there.
  await slowly(page);
  await page.locator('input[type=file]').setInputFiles(writeWav('far three.wav', knownSound(122)));
  await expect.poll(() => sentShare(page)).toBeGreaterThan(10);
  await page.getByRole('button', { name: 'Give it up' }).click();
  await expect(page.getByText('far three')).toHaveCount(0);
  await page.reload();
  await expect(second).toBeVisible();
  await expect(page.getByText('far three')).toHaveCount(0);
  await context.close();
});
