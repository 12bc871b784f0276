// A page of the product in a browser of its own, which can be killed and comes back with what it had kept.
import { chromium } from '@playwright/test';
import { spawnSync } from 'node:child_process';

/** So much goes out: a file is on its way long enough to be cut. */
const OUT_BYTES_PER_SECOND = 2_500_000;

export class Page {
  #context;
  #page;
  /** Errors that nobody caught in it. */
  errors = [];

  constructor(address, profile) {
    this.address = address;
    this.profile = profile;
  }

  /** Where it was last, or at `path`. */
  async open(path = this.path) {
    this.path = path;
    if (!this.#context) {
      this.#context = await chromium.launchPersistentContext(this.profile, {
        executablePath: '/usr/bin/chromium',
        args: ['--no-sandbox'],
        viewport: { width: 1280, height: 800 },
      });
      this.#page = this.#context.pages()[0] ?? (await this.#context.newPage());
      this.#page.on('pageerror', (error) => this.errors.push(error.message));
    }
    await this.#page.goto(`${this.address}${path}`, { timeout: 60_000 });
    const line = await this.#context.newCDPSession(this.#page);
    await line.send('Network.enable');
    const conditions = { offline: false, latency: 2, downloadThroughput: -1, uploadThroughput: OUT_BYTES_PER_SECOND };
    await line.send('Network.emulateNetworkConditions', conditions);
    return this.#page;
  }

  /** As the machine does that runs out of memory: all of the browser at once. */
  async kill() {
    const context = this.#context;
    this.#context = undefined;
    spawnSync('pkill', ['-9', '-f', this.profile]);
    await context?.close().catch(() => undefined);
  }

  async close() {
    await this.#context?.close();
    this.#context = undefined;
  }

  get isOpen() {
    return this.#context !== undefined;
  }

  get now() {
    return this.#page;
  }

  /** What stands there, or '' when the page is away. */
  async text(selector) {
    return (
      (await this.#page
        .locator(selector)
        .first()
        .textContent({ timeout: 500 })
        .catch(() => '')) ?? ''
    );
  }
}
