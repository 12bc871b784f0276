// A recording of 60 minutes in headless Chromium: time until its wave stands, frames a second while it scrolls
// and zooms with all strips shown.
import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { createReadStream, mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { applyEdit } from '../packages/engine/dist/index.js';
import { startPostgres } from '../scripts/lib/postgres.mjs';
import { root } from '../scripts/lib/system.mjs';
import { median, narration } from './sounds.mjs';

const PORT = 4699;
const address = `http://127.0.0.1:${PORT}`;

async function bringIn(path) {
  const response = await fetch(`${address}/api/recordings?name=hour.flac`, {
    method: 'POST',
    body: createReadStream(path),
    duplex: 'half',
    headers: { 'content-type': 'application/octet-stream', 'content-length': String(statSync(path).size) },
  });
  const { sessionId } = await response.json();
  for (;;) {
    const session = await (await fetch(`${address}/api/sessions/${sessionId}`)).json();
    if (session.document) return sessionId;
    if (session.recording.job.state === 'failed') throw new Error(session.recording.job.problem.message);
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
}

/** Frames a second while `move` is done once a frame for some seconds. */
const framesPerSecond = (page, move) =>
  page.evaluate(
    ([source, seconds]) =>
      new Promise((resolve) => {
        const move = new Function('view', 'n', source);
        const { view } = window.euphonosWorkbench;
        const start = performance.now();
        let frames = 0;
        requestAnimationFrame(function tick(now) {
          move(view, frames++);
          if (now - start < seconds * 1000) requestAnimationFrame(tick);
          else resolve(frames / ((now - start) / 1000));
        });
      }),
    [move, 4],
  );

/** Milliseconds until the wave of the source has ink on it. */
const waveStands = (page) =>
  page.evaluate(async () => {
    for (;;) {
      const canvas = document.querySelector('[data-lane=source] canvas') ?? null;
      const overview = document.querySelector('canvas[aria-label="The whole recording"]');
      for (const each of [overview, canvas])
        if (each?.width > 0) {
          const { data } = each.getContext('2d').getImageData(0, 0, each.width, each.height);
          for (let i = 3; i < data.length; i += 400) if (data[i] > 60) return performance.now();
        }
      await new Promise((resolve) => requestAnimationFrame(resolve));
    }
  });

/** The session cut into ten thousand clips, some of it away. */
async function cutUp(id) {
  const session = await (await fetch(`${address}/api/sessions/${id}`)).json();
  const length = session.document.tracks[0].recordingFrames;
  const step = Math.floor(length / 10_000);
  const spans = Array.from({ length: 9999 }, (_, i) => ({ startFrame: (i + 1) * step - 600, endFrame: (i + 1) * step }));
  const document = applyEdit(session.document, { type: 'cut-spans', trackId: session.document.tracks[0].id, spans, close: true });
  const { ok } = await fetch(`${address}/api/sessions/${id}/document`, {
    method: 'PUT',
    body: JSON.stringify({ revision: session.revision, document }),
    headers: { 'content-type': 'application/json' },
  });
  if (!ok) throw new Error('The session of ten thousand clips was not saved.');
}

/** Milliseconds from a key until the clips have changed, three times. */
async function editMs(page) {
  const box = await page.locator('[data-strips]').boundingBox();
  await page.mouse.move(box.x + 300, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + 360, box.y + 60, { steps: 3 });
  await page.mouse.up();
  const times = [];
  for (let i = 0; i < 3; i++) {
    await page.waitForTimeout(900);
    times.push(
      await page.evaluate(
        () =>
          new Promise((resolve) => {
            const before = window.euphonosWorkbench.sound.clips;
            const start = performance.now();
            document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'd', code: 'KeyD', bubbles: true }));
            requestAnimationFrame(function tick() {
              if (window.euphonosWorkbench.sound.clips === before) requestAnimationFrame(tick);
              else requestAnimationFrame(() => resolve(performance.now() - start));
            });
          }),
      ),
    );
  }
  return median(times);
}

export async function run() {
  const scratch = mkdtempSync(join(tmpdir(), 'euphonos-bench-'));
  const database = await startPostgres(join(scratch, 'postgres'), { durable: false });
  const server = spawn(process.execPath, [join(root, 'apps/server/dist/main.js')], {
    env: {
      ...process.env,
      EUPHONOS_PORT: String(PORT),
      EUPHONOS_DATABASE_URL: database.url,
      EUPHONOS_MEDIA: join(scratch, 'media'),
      EUPHONOS_DEMO: 'none',
      NODE_ENV: 'production',
    },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  await new Promise((resolve) => server.once('message', resolve));
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--autoplay-policy=no-user-gesture-required'],
  });
  try {
    const started = Date.now();
    const id = await bringIn(narration(3600, 'hour.flac', ['-c:a', 'flac']));
    const readSeconds = (Date.now() - started) / 1000;
    const openings = [];
    let page;
    for (let i = 0; i < 3; i++) {
      await page?.close();
      page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(`${address}/sessions/${id}/treat`, { waitUntil: 'commit' });
      openings.push(await waveStands(page));
    }
    await page.waitForTimeout(4000);
    const rates = {};
    for (const picture of ['spectrogram', 'wave']) {
      rates[`${picture}, scrolled at 20 s a view`] = await framesPerSecond(page, 'if (n === 0) view.show(0, 960000); view.scroll(12);');
      rates[`${picture}, scrolled at 10 min a view`] = await framesPerSecond(page, 'if (n === 0) view.show(0, 28800000); view.scroll(3);');
      rates[`${picture}, zoomed in and out over the hour`] = await framesPerSecond(
        page,
        'if (n === 0) view.showAll(); view.zoom(n % 120 < 60 ? 0.88 : 1 / 0.88, 500);',
      );
      await page.keyboard.press('w');
    }
    await page.close();
    await cutUp(id);
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${address}/sessions/${id}/treat`);
    await waveStands(page);
    await page.waitForTimeout(4000);
    const cut = {};
    for (const picture of ['spectrogram', 'wave']) {
      cut[`10 000 clips, ${picture}, scrolled at 20 s a view`] = await framesPerSecond(
        page,
        'if (n === 0) view.show(0, 960000); view.scroll(12);',
      );
      cut[`10 000 clips, ${picture}, scrolled at 4 min a view`] = await framesPerSecond(
        page,
        'if (n === 0) view.show(0, 11520000); view.scroll(6);',
      );
      await page.keyboard.press('w');
    }
    await page.evaluate(() => window.euphonosWorkbench.view.show(0, 960000));
    const edit = await editMs(page);
    return [
      { what: 'an hour of FLAC brought in and read', value: readSeconds, unit: ' s' },
      { what: 'an hour opened, until its wave stands', value: median(openings), unit: ' ms', limit: 1500 },
      ...Object.entries(rates).map(([what, value]) => ({ what, value, unit: ' fps', limit: 50, atLeast: true })),
      ...Object.entries(cut).map(([what, value]) => ({ what, value, unit: ' fps', limit: 24, atLeast: true })),
      { what: '10 000 clips, an edit, from the key until it is drawn', value: edit, unit: ' ms', limit: 250 },
    ];
  } finally {
    await browser.close();
    server.kill('SIGTERM');
    await new Promise((resolve) => server.once('exit', resolve));
    await database.stop();
    rmSync(scratch, { recursive: true, force: true });
  }
}
