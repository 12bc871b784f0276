// What is done while something is killed. Each begins, says when it is in the middle, goes on when all is back, and says what is wrong then.
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { targets } from '@euphonos/engine';
import { until, wait } from '../installation.mjs';
import { stretch } from '../sounds.mjs';

const SAVED = /Saved · revision (\d+)/;
const shaOf = (bytes) => createHash('sha256').update(bytes).digest('hex');
const saveState = (page) => page.text('[role=status]:has-text("revision"), [role=status]:has-text("av")');
const cutoffOf = ({ document }) => document.tracks[0].chain.treatments.find(({ kind }) => kind === 'high-pass').cutoffHz;

/** Somebody turns a ruler, again and again, and looks whether it is saved. */
async function edit(world) {
  const { page, studio, desk } = world;
  const typed = [];
  let shown = -1;
  let over = false;
  const tab = await page.open(`/sessions/${desk}/treat`);
  const region = tab.getByRole('region', { name: 'High-pass', exact: true });
  const header = region.locator('button[aria-expanded]').first();
  await header.waitFor({ timeout: 30_000 });
  if ((await header.getAttribute('aria-expanded')) === 'false') await header.click();
  const box = tab.getByRole('textbox', { name: 'Cutoff, typed' });
  const turn = async () => {
    const value = 41 + (world.turns++ % 300);
    const before = Number(SAVED.exec(await saveState(page))?.[1] ?? 0);
    await box.fill(String(value), { timeout: 5000 });
    typed.push(value);
    await box.press('Enter', { timeout: 5000 });
    for (let i = 0; i < 40 && !over; i++) {
      const revision = Number(SAVED.exec(await saveState(page))?.[1] ?? 0);
      if (revision > before) {
        shown = typed.length - 1;
        return;
      }
      await wait(25);
    }
  };
  await turn();
  const work = (async () => {
    while (!over) await turn();
  })().catch(() => undefined);
  return {
    async end() {
      over = true;
      await work;
    },
    async problems(victim) {
      if (victim === 'page') {
        await page.open();
        await page.now.locator('[data-strips]').waitFor({ timeout: 30_000 });
      }
      await until(
        () => saveState(page),
        (text) => SAVED.test(text),
        60,
      );
      const cutoff = cutoffOf(await studio.ask('GET', `sessions/${desk}`));
      const at = typed.lastIndexOf(cutoff);
      // What was typed before the kill and never shown as saved may be there or not, when the page itself was killed.
      const least = victim === 'page' ? shown : typed.length - 1;
      return at >= least
        ? []
        : [`lost edit: ${cutoff} Hz is there; ${typed[least]} Hz was ${victim === 'page' ? 'shown as saved' : 'typed'}`];
    },
  };
}

/** A file that the page sends: a recording, or a bundle. */
const sends = (kind) => async (world) => {
  const { page, studio, sql } = world;
  const index = world.files++;
  const name = `${kind === 'bundle' ? 'moved' : 'sent'} ${index}`;
  const bytes = kind === 'bundle' ? world.bundle : stretch(world.talk, 60, 10_000 + index);
  const path = studio.path(kind === 'bundle' ? `${name}.bundle.zip` : `${name}.wav`);
  writeFileSync(path, bytes);
  const count = async () =>
    kind === 'bundle'
      ? (await sql('SELECT count(*)::int FROM session WHERE name = $1', [world.bundledName]))[0].count
      : (await sql('SELECT count(*)::int FROM recording WHERE original_sha = $1', [shaOf(bytes)]))[0].count;
  const before = await count();
  const tab = await page.open('/');
  await tab.locator('input[type=file]').first().setInputFiles(path);
  await until(
    () => page.text('text=/% sent/'),
    (text) => text !== '',
    5,
  ).catch(() => undefined);
  return {
    end: async () => undefined,
    async problems(victim) {
      if (victim === 'page') {
        const again = await page.open();
        await again.getByRole('heading').first().waitFor();
        await wait(1500);
        const left = again
          .getByRole('status')
          .filter({ hasText: path.split('/').at(-1) })
          .getByRole('button', { name: 'Choose it again' });
        if ((await left.count()) > 0) {
          const [chooser] = await Promise.all([again.waitForEvent('filechooser'), left.first().click()]);
          await chooser.setFiles(path);
        } else if ((await count()) === before) {
          await again.locator('input[type=file]').first().setInputFiles(path);
        }
      }
      await until(count, (there) => there > before, 60);
      await world.quiet();
      await wait(500);
      const there = (await count()) - before;
      const left = await until(
        () => page.now.getByText('was on its way').count(),
        (n) => n === 0,
        10,
      ).catch(() => 1);
      return [
        ...(there === 1 ? [] : [`double result: ${name} is there ${there} times`]),
        ...(left === 0 ? [] : [`${name} is there and still offered as left over`]),
      ];
    },
  };
};

/** A file comes in and is read and surveyed. */
async function survey(world) {
  const { page, studio, sql } = world;
  const { recordingId, sessionId } = await studio.send(stretch(world.talk, 60, 20_000 + world.files++), 'name=surveyed.wav');
  const id = recordingId ?? (await sql('SELECT recording_id AS id FROM session_recording WHERE session_id = $1', [sessionId]))[0].id;
  await page.open(`/sessions/${sessionId}/survey`);
  return {
    end: async () => undefined,
    async problems(victim) {
      if (victim === 'page') await page.open();
      const [row] = await sql(
        `SELECT read.state AS read, surveyed.state AS surveyed, (SELECT count(*)::int FROM job WHERE subject_id = $1) AS jobs
         FROM recording JOIN job AS read ON read.id = recording.job_id LEFT JOIN survey ON survey.recording_id = recording.id
         LEFT JOIN job AS surveyed ON surveyed.id = survey.job_id WHERE recording.id = $1`,
        [id],
      );
      return row?.read === 'done' && row.surveyed === 'done' && row.jobs === 2 ? [] : [`survey: ${JSON.stringify(row)}`];
    },
  };
}

/** Somebody asks for the file in Hand over. */
async function render(world) {
  const { page, sql, handed } = world;
  const ids = async () => (await sql('SELECT id FROM render WHERE session_id = $1', [handed])).map(({ id }) => id);
  const before = new Set(await ids());
  const tab = await page.open(`/sessions/${handed}/hand-over`);
  await tab.getByRole('button', { name: 'Render the whole recording' }).click({ timeout: 30_000 });
  const made = async () => (await ids()).filter((id) => !before.has(id));
  await until(made, (list) => list.length > 0, 3).catch(() => undefined);
  return {
    end: async () => undefined,
    async problems(victim) {
      if (victim === 'page') await page.open();
      const list = await made();
      if (list.length !== 1) return [`${list.length} renders where one was asked for`];
      const [row] = await sql('SELECT file_sha AS sha, state FROM render JOIN job ON job.id = job_id WHERE render.id = $1', list);
      return row.state === 'done' && row.sha === world.handedSha ? [] : [`render: ${JSON.stringify(row)}, ${world.handedSha} was expected`];
    },
  };
}

/** Three files are cleaned in a row. */
async function batch(world) {
  const { page, studio, sql } = world;
  const { id } = await studio.ask('POST', 'batches', { name: `Batch ${world.files}`, target: targets[0] });
  for (let i = 0; i < 3; i++) await studio.send(stretch(world.talk, 12, 30_000 + world.files++), `name=${world.files}.wav&batch=${id}`);
  await page.open(`/batches/${id}`);
  return {
    end: async () => undefined,
    async problems(victim) {
      if (victim === 'page') await page.open();
      const rows = await sql(
        `SELECT (SELECT count(*)::int FROM render JOIN job ON job.id = render.job_id WHERE render.session_id = batch_item.session_id AND state = 'done') AS renders
         FROM batch_item WHERE batch_id = $1`,
        [id],
      );
      return rows.length === 3 && rows.every(({ renders }) => renders === 1) ? [] : [`batch: ${JSON.stringify(rows)}`];
    },
  };
}

export const activities = { upload: sends('recording'), edit, survey, render, batch, bundle: sends('bundle') };
