// A recording of 60 minutes in headless Chromium: time until its wave stands, frames a second while it scrolls
// and zooms with all strips shown; thirty lanes; a list of 5000 sessions.
import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { createReadStream, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { applyEdit, reelFrames } from '../packages/engine/dist/index.js';
import { startPostgres } from '../scripts/lib/postgres.mjs';
import { root } from '../scripts/lib/system.mjs';
import pg from 'pg';
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
  const length = reelFrames(session.document.tracks[0].reel);
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

/** A session of thirty tracks, each a minute of the narration. */
async function thirty() {
  const bytes = readFileSync(narration(60, 'minute.flac', ['-c:a', 'flac']));
  let session;
  for (let i = 0; i < 30; i++) {
    const query = new URLSearchParams({ name: `guest ${i}.flac`, ...(session ? { session } : { placing: 'tracks' }) });
    const response = await fetch(`${address}/api/recordings?${query}`, {
      method: 'POST',
      body: bytes,
      headers: { 'content-type': 'application/octet-stream' },
    });
    session = (await response.json()).sessionId;
  }
  await fetch(`${address}/api/sessions/${session}/gathered`, { method: 'POST' });
  for (;;) {
    const { document } = await (await fetch(`${address}/api/sessions/${session}`)).json();
    if (document) return session;
    await new Promise((resolve) => setTimeout(resolve, 300));
  }
}

/** Frames a second while something of the page is moved once a frame. */
const framesOfPage = (page, move) =>
  page.evaluate(
    ([source, seconds]) =>
      new Promise((resolve) => {
        const move = new Function('n', source);
        const start = performance.now();
        let frames = 0;
        requestAnimationFrame(function tick(now) {
          move(frames++);
          if (now - start < seconds * 1000) requestAnimationFrame(tick);
          else resolve(frames / ((now - start) / 1000));
        });
      }),
    [move, 4],
  );

/** Rows for the list, without sounds: nobody looks at these. */
async function manySessions(url, count) {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query(`
    INSERT INTO job (id, kind, session_id, subject_id, state) SELECT gen_random_uuid(), 'read', gen_random_uuid(), gen_random_uuid(), 'done' FROM generate_series(1, ${count});
    INSERT INTO recording (id, file_name, size_bytes, original_sha, job_id) SELECT gen_random_uuid(), 'many ' || row_number() OVER () || '.wav', 1, 'none', id
      FROM job WHERE NOT EXISTS (SELECT 1 FROM recording WHERE job_id = job.id) AND NOT EXISTS (SELECT 1 FROM recording WHERE recording.id = subject_id) AND kind = 'read';
    INSERT INTO session (id, name, revision, seconds) SELECT id, file_name, 1, 60 FROM recording WHERE file_name LIKE 'many %';
    INSERT INTO session_recording (session_id, recording_id, place) SELECT id, id, 0 FROM recording WHERE file_name LIKE 'many %';
    ANALYZE;`);
  await client.end();
}

/** Milliseconds of a page of the list, the slowest of the ways to ask for one. */
async function pageOfListMs() {
  let most = 0;
  for (const query of ['', 'offset=4900', 'sort=noise', 'search=many%20499', 'left=treat&sort=name']) {
    await fetch(`${address}/api/sessions?${query}`);
    const start = performance.now();
    await (await fetch(`${address}/api/sessions?${query}`)).json();
    most = Math.max(most, performance.now() - start);
  }
  return most;
}

export async function run() {
  const scratch = mkdtempSync(join(tmpdir(), 'euphonos-bench-'));
  const database = await startPostgres(join(scratch, 'postgres'), { durable: false });
  const server = spawn(process.execPath, [join(root, 'apps/server/dist-bundle/main.js')], {
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
    await page.close();
    const many = await thirty();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${address}/sessions/${many}/treat`);
    await page.getByText('30 lanes, show more').click();
    await page.waitForTimeout(5000);
    const lanes = {
      'thirty lanes, scrolled through': await framesOfPage(
        page,
        "const list = document.querySelector('section[aria-label=Tracks] ul'); list.scrollTop = (n * 6) % (list.scrollHeight - list.clientHeight);",
      ),
      'thirty lanes, strips scrolled below': await framesPerSecond(page, 'if (n === 0) view.show(0, 480000); view.scroll(6);'),
    };
    await page.keyboard.press('y');
    await page.keyboard.press('Space');
    await page.waitForFunction(() => window.euphonosWorkbench.player.status === 'playing', null, { timeout: 60000 });
    await page.waitForTimeout(8000);
    lanes['thirty lanes, all playing'] = await framesOfPage(page, '');
    await page.close();
    await manySessions(database.url, 5000);
    const listMs = await pageOfListMs();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.waitForTimeout(2000);
    lanes['5000 sessions, the list scrolled through'] = await framesOfPage(page, "document.querySelector('main').scrollTop = n * 40;");
    return [
      { what: 'an hour of FLAC brought in and read', value: readSeconds, unit: ' s' },
      { what: 'an hour opened, until its wave stands', value: median(openings), unit: ' ms', limit: 1000 },
      ...Object.entries(rates).map(([what, value]) => ({ what, value, unit: ' fps', limit: 50, atLeast: true })),
      ...Object.entries(cut).map(([what, value]) => ({ what, value, unit: ' fps', limit: 24, atLeast: true })),
      ...Object.entries(lanes).map(([what, value]) => ({ what, value, unit: ' fps', limit: 50, atLeast: true })),
      { what: 'a page of a list of 5000 sessions, slowest way to ask', value: listMs, unit: ' ms', limit: 200 },
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
