// How far one server goes, and what another worker brings. One worker against two is measured on a batch of files of 30 s that says enough (60);
// each is held to one core, since one by itself would take both of this machine. Then as many as EUPHONOS_FILES says (1000) are cleaned by both, while
// somebody renders by hand and twenty engineers save.
import { readFileSync } from 'node:fs';
import { targets } from '@euphonos/engine';
import pg from 'pg';
import { Installation, wait } from './installation.mjs';
import { narration, stretch } from './sounds.mjs';
import { stolenSince } from './stolen.mjs';

const PORT = 4697;
const SECONDS = 30;
const COMPARED = 60;
const ENGINEERS = 20;
const SAVE_EVERY_MS = 1000;
const HAND_RENDERS = 20;
/** Enough to say how long they take; the rest of the batch goes on without them. */
const SAVES = 2000;

const quantile = (values, share) => [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(share * values.length))];

/** Renders by hand, one after the other: how long each waits until it is at work, s. */
async function renderByHand(studio, sql, session, isOver) {
  const waited = [];
  while (waited.length < HAND_RENDERS && !isOver()) {
    const { id } = await studio.ask('POST', `sessions/${session.id}/renders`, { revision: session.revision });
    const begun = Date.now();
    for (;;) {
      const { rows } = await sql.query('SELECT state FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [id]);
      if (rows[0].state !== 'queued') break;
      await wait(20);
    }
    waited.push((Date.now() - begun) / 1000);
    for (;;) {
      const { rows } = await sql.query('SELECT state FROM job JOIN render ON job_id = job.id WHERE render.id = $1', [id]);
      if (rows[0].state === 'done' || rows[0].state === 'failed') break;
      await wait(100);
    }
  }
  return waited;
}

/** Saves of several engineers at once, each in a session of theirs: how long each takes, ms. */
async function saveByMany(studio, sessions, isOver) {
  const took = [];
  await Promise.all(
    sessions.map(async (session, i) => {
      let { revision } = session;
      await wait((i * SAVE_EVERY_MS) / sessions.length);
      while (!isOver() && took.length < SAVES) {
        const begun = performance.now();
        ({ revision } = await studio.ask('PUT', `sessions/${session.id}/document`, { revision, document: session.document }));
        took.push(performance.now() - begun);
        await wait(SAVE_EVERY_MS);
      }
    }),
  );
  return took;
}

/** A batch, until its last file is there. @returns seconds, and what the host took meanwhile, % */
async function batch(studio, talk, files, from, meanwhile) {
  const { id } = await studio.ask('POST', 'batches', { name: `${files} files`, target: targets[0] });
  for (let i = 0; i < files; i++) await studio.send(stretch(talk, SECONDS, from + i), `name=${from + i}.wav&batch=${id}`);
  const begun = performance.now();
  const stolen = stolenSince();
  let over = false;
  const other = meanwhile?.(() => over);
  for (;;) {
    const rows = await studio.ask('GET', 'batches');
    const row = rows.find((one) => one.id === id);
    if (row.failed > 0) throw new Error(`${row.failed} files failed`);
    if (row.done === files) break;
    await wait(250);
  }
  over = true;
  const seconds = (performance.now() - begun) / 1000;
  return { seconds, stolen: stolen(), other: await other };
}

export async function run() {
  const files = Number(process.env.EUPHONOS_FILES ?? 1000);
  const talk = readFileSync(narration(600));
  const studio = await Installation.create(PORT);
  const sql = new pg.Client({ connectionString: studio.databaseUrl });
  try {
    await studio.start('server', 'main.js', { EUPHONOS_WORK: 'none' });
    await sql.connect();
    await studio.start('one', 'work.js', { core: 0, EUPHONOS_WORKER_NAME: 'one' });
    const mine = await studio.opened((await studio.send(stretch(talk, SECONDS, 5_000_000), 'name=by-hand.wav')).sessionId);
    const theirs = [];
    for (let i = 0; i < ENGINEERS; i++)
      theirs.push(await studio.opened((await studio.send(stretch(talk, SECONDS, 6_000_000 + i), `name=engineer-${i}.wav`)).sessionId));
    // Both are measured without anybody beside them; who waits is measured beside a third.
    const compared = Math.min(files, COMPARED);
    const one = await batch(studio, talk, compared, 0);
    await studio.start('two', 'work.js', { core: 1, EUPHONOS_WORKER_NAME: 'two' });
    const two = await batch(studio, talk, compared, compared);
    const beside = await batch(studio, talk, files, 2 * compared, (isOver) =>
      Promise.all([renderByHand(studio, sql, mine, isOver), saveByMany(studio, theirs, isOver)]),
    );
    const [waited, saved] = beside.other;
    return [
      { what: `${compared} files of ${SECONDS} s, one worker on one core`, value: one.seconds, unit: ' s' },
      { what: 'two workers, a core each', value: two.seconds, unit: ' s' },
      {
        what: 'what the host took of both cores for others, the worst of the three',
        value: Math.max(one.stolen, two.stolen, beside.stolen),
        unit: ' %',
      },
      { what: 'two against one', value: one.seconds / two.seconds, limit: 1.7, atLeast: true },
      { what: `${files} files of ${SECONDS} s, two workers, others beside them`, value: beside.seconds, unit: ' s' },
      {
        what: `a render by hand beside it, until it is at work, p95 of ${waited.length}`,
        value: quantile(waited, 0.95),
        unit: ' s',
        limit: 2,
      },
      { what: `${ENGINEERS} engineers save beside it, p95 of ${saved.length}`, value: quantile(saved, 0.95), unit: ' ms', limit: 200 },
    ];
  } finally {
    await sql.end().catch(() => undefined);
    await studio.close();
  }
}
