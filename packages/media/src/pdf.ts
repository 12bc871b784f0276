import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { MediaError } from './errors.js';

const run = promisify(execFile);
const LONGEST_MS = 60_000;

/** A page that needs nothing else, printed by Debian's Chromium. @throws {MediaError} `print-failed` */
export async function htmlAsPdf(html: string): Promise<Buffer> {
  const chromium = process.env['CHROMIUM'] ?? '/usr/bin/chromium';
  if (!existsSync(chromium))
    throw new MediaError(
      'print-failed',
      `There is no ${chromium} that prints; install Debian's package chromium, or print the page (HTML) from a browser.`,
    );
  const folder = await mkdtemp(join(tmpdir(), 'euphonos-print-'));
  try {
    const [page, pdf] = [join(folder, 'page.html'), join(folder, 'page.pdf')];
    await writeFile(page, html);
    await run(
      chromium,
      [
        ...['--headless', '--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
        ...['--disable-component-update', '--disable-sync', `--user-data-dir=${join(folder, 'profile')}`, '--no-pdf-header-footer'],
        ...[`--print-to-pdf=${pdf}`, pathToFileURL(page).href],
      ],
      { timeout: LONGEST_MS, maxBuffer: 1 << 24 },
    );
    return await readFile(pdf);
  } catch (error) {
    if (error instanceof MediaError) throw error;
    throw new MediaError(
      'print-failed',
      `The page could not be printed: ${(error as Error).message.split('\n')[0]}. As HTML it can be printed from a browser.`,
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
