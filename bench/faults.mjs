// Nothing lost: page, server, worker and database are killed with -9 at moments of chance, while files are sent, a session is edited, surveyed and
// rendered, a batch runs and a bundle comes in. EUPHONOS_KILLS says how often (100), EUPHONOS_SEED which chances.
import { readFileSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { activities } from './faults/activities.mjs';
import { victims } from './faults/killed.mjs';
import { Page } from './faults/page.mjs';
import { Installation, until, wait } from './installation.mjs';
import { dice } from './mutators.mjs';
import { narration, stretch } from './sounds.mjs';

const PORT = 4695;
/** The kill comes so long after it was in the middle, at most. */
const WITHIN_MS = 2500;
/** It stays away so long, at most. */
const AWAY_MS = 1500;

/** A question to the database, with a connection of its own: it is killed, too. */
const asks = (studio) => async (text, values) => {
  const client = new pg.Client({ connectionString: studio.databaseUrl });
  await client.connect();
  try {
    return (await client.query(text, values)).rows;
  } finally {
    await client.end();
  }
};

async function makeWorld(studio, random) {
  await studio.start('server', 'main.js', { EUPHONOS_WORK: 'none' });
  await studio.start('worker', 'work.js', { EUPHONOS_WORKER_NAME: 'mill' });
  const talk = readFileSync(narration(600));
  const sql = asks(studio);
  const open = async (index, name) => studio.opened((await studio.send(stretch(talk, 60, index), `name=${name}.wav`)).sessionId);
  const desk = await open(1, 'desk');
  const handed = await open(2, 'handed');
  const { id } = await studio.ask('POST', `sessions/${handed.id}/renders`, { revision: handed.revision });
  const [{ sha: handedSha }] = await until(
    () => sql(`SELECT file_sha AS sha FROM render WHERE id = $1`, [id]),
    ([{ sha }]) => sha !== null,
  );
  const quiet = () =>
    until(
      () => sql(`SELECT kind, state, attempt FROM job WHERE state IN ('queued', 'running')`),
      (open) => open.length === 0,
      120,
      250,
    );
  await quiet();
  const bundle = Buffer.from(await (await fetch(`${studio.address}/api/sessions/${handed.id}/bundle`)).arrayBuffer());
  const page = new Page(studio.address, studio.path('profile'));
  return {
    studio,
    sql,
    talk,
    random,
    quiet,
    page,
    desk: desk.id,
    handed: handed.id,
    handedSha,
    bundle,
    bundledName: handed.name,
    files: 0,
    turns: 0,
  };
}

/** One kill. @returns what was wrong afterwards, and how long it took until all was as it should be, s */
async function round(world, victim, activity) {
  const work = await activities[activity](world);
  await wait(world.random() * WITHIN_MS);
  await victims[victim].kill(world);
  const killedMs = Date.now();
  await wait(world.random() * AWAY_MS);
  await work.end();
  await victims[victim].back(world);
  const problems = await work.problems(victim);
  for (const name of ['server', 'worker']) {
    const gone = world.studio.running(name).gone();
    if (gone) throw new Error(`the ${name} ${gone}`);
  }
  await world.quiet().catch((error) => {
    throw new Error(`${error.message}; the worker says: ${world.studio.running('worker').said().slice(-3000)}`);
  });
  // What was looked at while work still went on is looked at again in the end.
  const last = problems.length > 0 ? await work.problems('none') : [];
  const failed = await world.sql(`SELECT kind, problem FROM job WHERE state = 'failed'`);
  await world.sql(`UPDATE job SET state = 'cancelled' WHERE state = 'failed'`);
  return {
    problems: [...last, ...failed.map(({ kind, problem }) => `${kind} failed: ${problem?.message}`), ...world.page.errors.splice(0)],
    seconds: (Date.now() - killedMs) / 1000,
  };
}

/** Files in the store that nothing refers to, and the reverse, when all is old enough to be swept. */
async function orphans({ studio, sql }) {
  await studio.end('server');
  await studio.end('worker');
  const old = new Date(Date.now() - 9 * 24 * 3_600_000);
  const files = () =>
    readdirSync(studio.media, { recursive: true, withFileTypes: true }).flatMap((entry) =>
      entry.isFile() ? [join(entry.parentPath, entry.name)] : [],
    );
  for (const file of files()) utimesSync(file, old, old);
  // What never came whole is kept for a week, by what is noted beside it.
  for (const name of readdirSync(studio.path('uploads')).filter((name) => name.endsWith('.json'))) {
    const path = studio.path(join('uploads', name));
    writeFileSync(path, JSON.stringify({ ...JSON.parse(readFileSync(path, 'utf8')), creation_date: old.toISOString() }));
  }
  await studio.start('server', 'main.js', { EUPHONOS_WORK: 'none' });
  await wait(3000);
  const { REFERENCED } = await import('../apps/server/dist/media-store/store-keeper.js');
  const wanted = new Set((await sql(REFERENCED)).flatMap(({ sha }) => sha ?? []));
  const there = new Set(files().map((path) => path.slice(studio.media.length + 1).replace('/', '')));
  return {
    left: [...there].filter((sha) => !wanted.has(sha)),
    missing: [...wanted].filter((sha) => !there.has(sha)),
    uploads: readdirSync(studio.path('uploads')),
  };
}

export async function run() {
  const kills = Number(process.env.EUPHONOS_KILLS ?? 100);
  const random = dice(Number(process.env.EUPHONOS_SEED ?? 1));
  // Renders of a minute are kept on their way, as those of hours are.
  const studio = await Installation.create(PORT, { EUPHONOS_PART_SECONDS: '10' });
  try {
    const world = await makeWorld(studio, random);
    const wrong = [];
    const took = [];
    const names = Object.keys(victims);
    const works = Object.keys(activities);
    for (let i = 0; i < kills; i++) {
      // Each victim meets each activity equally often.
      const victim = names[i % names.length];
      const activity = works[Math.floor(i / names.length) % works.length];
      const { problems, seconds } = await round(world, victim, activity).catch((error) => ({ problems: [error.message], seconds: 0 }));
      took.push(seconds);
      for (const problem of problems) wrong.push(`${i}: ${victim} killed in ${activity}: ${problem}`);
      process.stdout.write(
        `  ${i} ${victim} ${activity} ${seconds.toFixed(1)} s${problems.length > 0 ? ` ${problems.join(' | ')}` : ''}\n`,
      );
      if (!studio.running('server') || !studio.running('worker')) break;
    }
    await world.page.close();
    const { left, missing, uploads } = await orphans(world);
    for (const problem of wrong) process.stdout.write(`  ${problem}\n`);
    const count = (pattern) => wrong.filter((problem) => pattern.test(problem)).length;
    return [
      { what: 'kills', value: took.length, limit: kills, atLeast: true },
      { what: 'edits that were typed meanwhile', value: world.turns },
      { what: 'edits lost', value: count(/lost edit/), limit: 0 },
      { what: 'double results', value: count(/double result|renders where one/), limit: 0 },
      { what: 'other than it should be', value: count(/./) - count(/lost edit|double result|renders where one/), limit: 0 },
      { what: 'files in the store that nothing refers to', value: left.length, limit: 0 },
      { what: 'files that are referred to and not there', value: missing.length, limit: 0 },
      { what: 'files on their way that are left', value: uploads.length, limit: 0 },
      { what: 'the longest until all was done', value: Math.max(...took), unit: ' s', limit: 120 },
    ];
  } finally {
    await studio.close();
  }
}
