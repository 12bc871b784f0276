import { expect, type Download, type Locator, type Page } from '@playwright/test';

/** The strips as a user reaches them: by seconds of the recording. */
export class Desk {
  constructor(
    readonly page: Page,
    private readonly seconds: number,
  ) {}

  get strips(): Locator {
    return this.page.locator('[data-strips]');
  }

  /** Drags over a span on the strips, which show the whole recording. */
  async select(startSeconds: number, endSeconds: number): Promise<void> {
    const box = (await this.strips.boundingBox())!;
    const x = (seconds: number): number => box.x + (seconds / this.seconds) * box.width;
    const y = box.y + box.height * 0.25;
    await this.page.mouse.move(x(startSeconds), y);
    await this.page.mouse.down();
    await this.page.mouse.move((x(startSeconds) + x(endSeconds)) / 2, y);
    await this.page.mouse.move(x(endSeconds), y);
    await this.page.mouse.up();
  }

  ruler(title: string): Locator {
    return this.page.getByRole('slider', { name: title, exact: true });
  }

  async type(title: string, value: string): Promise<void> {
    const box = this.page.getByRole('textbox', { name: `${title}, typed` });
    await box.fill(value);
    await box.press('Enter');
  }

  treatment(title: string): Locator {
    return this.page.getByRole('region', { name: title, exact: true });
  }

  async open(title: string): Promise<void> {
    const header = this.treatment(title).locator('button[aria-expanded]').first();
    if ((await header.getAttribute('aria-expanded')) === 'false') await header.click();
  }

  async turn(title: string, on: boolean): Promise<void> {
    const button = this.page.getByRole('switch', { name: `${title} on` });
    if ((await button.getAttribute('aria-checked')) !== String(on)) await button.click();
  }

  saved(): Promise<void> {
    return expect(this.page.getByText(/^Saved · revision/)).toBeVisible();
  }

  /** Hands over: renders what is saved and downloads it to `path`. */
  async deliver(path: string, what = 'Render the whole recording'): Promise<Download> {
    await this.saved();
    await this.page.getByRole('button', { name: what }).click();
    const [download] = await Promise.all([this.page.waitForEvent('download'), this.page.getByRole('link', { name: /Download/ }).click()]);
    await download.saveAs(path);
    return download;
  }

  /** Until it plays, with all that sounds beside it: what is still being prepared comes in later. */
  async play(): Promise<void> {
    await this.page.getByRole('button', { name: 'Play', exact: true }).click();
    await expect
      .poll(() =>
        this.page.evaluate(() => {
          const { player } = (window as unknown as { euphonosWorkbench: { player: { status: string; awaited: number } } })
            .euphonosWorkbench;
          return [player.status, player.awaited];
        }),
      )
      .toEqual(['playing', 0]);
  }

  async stop(): Promise<void> {
    const button = this.page.getByRole('button', { name: 'Stop', exact: true });
    // What has come to its end has stopped by itself.
    if (await button.isVisible()) await button.click({ timeout: 5000 }).catch(() => undefined);
    await expect(this.page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  }
}

/** Brings a file in through the page and opens its session in Treat. */
export async function bringIn(page: Page, address: string, path: string, seconds: number): Promise<Desk> {
  await page.goto(address);
  await page.locator('input[type=file]').setInputFiles(path);
  const name = path
    .split('/')
    .pop()!
    .replace(/\.[a-z0-9]+$/, '');
  const line = page.getByRole('listitem').filter({ hasText: name });
  // Decoding and survey of a long recording take their time where the machine is busy.
  await expect(line.getByText('Noise floor')).toBeVisible({ timeout: 60_000 + 120 * seconds });
  await line.getByRole('link').click();
  const desk = new Desk(page, seconds);
  await expect(desk.strips).toBeVisible();
  await expect(page.locator('[data-telling=result]')).not.toContainText('–');
  return desk;
}
