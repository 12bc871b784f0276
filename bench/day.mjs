// A source as long as a day (EUPHONOS_HOURS, 24) or of as many channels as a recorder has (EUPHONOS_CHANNELS, 1): it comes in parts, is read,
// surveyed and rendered; how often its own length goes into the time that each took, and how much memory the whole installation had at most.
// Of a day it needs 60 GB and three quarters of an hour.
import { spawnSync } from 'node:child_process';
import { createReadStream, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Upload } from 'tus-js-client';
import { Installation, until } from './installation.mjs';
import { folder, narration } from './sounds.mjs';
import { stolenSince } from './stolen.mjs';

const PORT = 4696;
const PART_BYTES = 64 << 20;
const LIMIT_GB = 2;

/** The demo's narrator over and over, in each channel elsewhere in it and a little lower: 32 bits of float, in RF64 (EBU Tech 3306) where it has to be. */
function longSound(hours, channels) {
  const path = join(folder, `long-${hours}-${channels}.wav`);
  const each = Array.from({ length: channels }, (_, i) => `c${i}=${(0.9 ** i).toFixed(3)}*c0`).join('|');
  const apart = Array.from({ length: channels }, (_, i) => 7000 * i).join('|');
  const { status } = spawnSync(
    'ffmpeg',
    // prettier-ignore
    ['-nostdin', '-v', 'error', '-y', '-stream_loop', '-1', '-i', narration(600), '-af', `pan=${channels}c|${each},adelay=${apart}`,
      '-t', String(3600 * hours), '-c:a', 'pcm_f32le', '-rf64', 'auto', path],
    { stdio: 'inherit' },
  );
  if (status !== 0) throw new Error(`ffmpeg could not make ${path}`);
  return path;
}

/** Proportional set sizes (proc(5), smaps_rollup) of everything that was started here, threads, programs and database, bytes. */
function memoryInUse() {
  const parents = new Map();
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      const status = readFileSync(`/proc/${pid}/stat`, 'utf8');
      parents.set(pid, status.slice(status.lastIndexOf(')') + 2).split(' ')[1]);
    } catch {
      // It has ended.
    }
  const own = String(process.pid);
  const isOurs = (pid) => parents.get(pid) === own || (parents.has(pid) && isOurs(parents.get(pid)));
  let bytes = 0;
  for (const pid of parents.keys())
    if (isOurs(pid))
      try {
        bytes += 1024 * Number(/^Pss: +(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))[1]);
      } catch {
        // It has ended.
      }
  return bytes;
}

/** In parts, as the page sends it. @returns the id of what has come */
const sendInParts = (address, path) =>
  new Promise((resolve, reject) => {
    const upload = new Upload(createReadStream(path), {
      endpoint: `${address}/api/uploads`,
      chunkSize: PART_BYTES,
      uploadSize: statSync(path).size,
      metadata: { filename: 'long.wav' },
      onError: reject,
      onSuccess: () => resolve(upload.url.split('/').at(-1)),
    });
    upload.start();
  });

export async function run() {
  const hours = Number(process.env.EUPHONOS_HOURS ?? 24);
  const channels = Number(process.env.EUPHONOS_CHANNELS ?? 1);
  const path = longSound(hours, channels);
  const studio = await Installation.create(PORT);
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, memoryInUse())), 1000);
  const rows = [{ what: `${hours} h of ${channels} channels, as a file`, value: statSync(path).size / 1e9, unit: ' GB' }];
  /** Does it, and notes how it went. */
  const timed = async (what, work) => {
    most = 0;
    const begun = performance.now();
    const stolen = stolenSince();
    const result = await work();
    const seconds = (performance.now() - begun) / 1000;
    rows.push(
      { what: `${what}: so many times its speed (the host took ${stolen().toFixed(0)} %)`, value: (3600 * hours) / seconds },
      { what: `${what}: memory of the whole installation at most`, value: most / 1e9, unit: ' GB', limit: LIMIT_GB },
    );
    return result;
  };
  const settled = ({ job }) => ['done', 'failed'].includes(job?.state);
  const good = (what) => {
    if (what.job.state !== 'done') throw new Error(what.job.problem.message);
    return what;
  };
  try {
    await studio.start('server', 'main.js');
    const upload = await timed('comes in', () => sendInParts(studio.address, path));
    const { sessionId } = await studio.ask('POST', `recordings?name=long.wav&upload=${upload}`);
    const day = 24 * 3600;
    const session = await timed('is read', () =>
      until(
        () => studio.ask('GET', `sessions/${sessionId}`),
        ({ document, recording }) => document !== null || recording.job.state === 'failed',
        day,
        1000,
      ),
    );
    good(session.recording);
    await timed('is surveyed', async () =>
      good(await until(() => studio.ask('GET', `recordings/${session.recording.id}/survey`), settled, day, 1000)),
    );
    const { id } = await studio.ask('POST', `sessions/${sessionId}/renders`, { revision: session.revision });
    const find = async () => (await studio.ask('GET', `sessions/${sessionId}/renders`)).find((render) => render.id === id);
    const render = await timed('is rendered', async () => good(await until(find, settled, day, 1000)));
    rows.push({
      what: 'the file is as long as its source, off by',
      value: Math.abs(render.report.after.durationSeconds - 3600 * hours),
      unit: ' s',
      limit: 0.001,
    });
    return rows;
  } finally {
    clearInterval(watch);
    await studio.close();
    rmSync(path);
  }
}
