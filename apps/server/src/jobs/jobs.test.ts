import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { SessionPage, SessionView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('in.wav'), noise(-50, 4, 3));
  session = await server.bringIn('in.wav', readFileSync(files.path('in.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});

describe('long work', () => {
  let long: SessionView;
  beforeAll(async () => {
    ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=r=48000:d=200:a=0.05:seed=5', '-c:a', 'flac', files.path('long.flac'));
    long = await server.bringIn('long.flac', readFileSync(files.path('long.flac')));
  });
  const running = (id: string) =>
    until(
      () => server.findRender(long.id, id),
      ({ job }) => job.state === 'running' && job.progress >= 0,
    );

  test('can be cancelled: no file, and nothing left of it', async () => {
    const { id } = await server.render(long.id, long.revision);
    await running(id);
    expect(await server.json('POST', `renders/${id}/cancel`)).toMatchObject({ status: 201, body: { job: { state: 'cancelled' } } });
    expect(await server.json('GET', `renders/${id}/file`)).toMatchObject({ status: 409, body: { code: 'not-ready' } });
    expect(await server.json('POST', `renders/${id}/cancel`)).toMatchObject({ status: 409, body: { code: 'job-over' } });
    await until(
      async () => readdirSync(join(server.media, 'work')).length,
      (count) => count === 0,
    );
  });

  test('survives kill -9: it runs again, and its result appears once', async () => {
    const { id } = await server.render(long.id, long.revision);
    await running(id);
    await new Promise((resolve) => setTimeout(resolve, 1200));
    expect((await server.findRender(long.id, id)).job.state).toBe('running');
    await server.end('SIGKILL');
    await server.start();
    const { job, report } = await server.renderEnd(long.id, id);
    expect(job.state).toBe('done');
    expect(report!.after.durationSeconds).toBe(200);
    const { rows } = await server.sql.query('SELECT j.attempt, j.state FROM render r JOIN job j ON j.id = r.job_id WHERE r.id = $1', [id]);
    expect(rows).toEqual([{ attempt: 2, state: 'done' }]);
  });

  test('an orderly stop gives the work back at once', async () => {
    const { id } = await server.render(long.id, long.revision);
    await running(id);
    await server.end('SIGTERM');
    const { rows } = await server.sql.query('SELECT j.state FROM render r JOIN job j ON j.id = r.job_id WHERE r.id = $1', [id]);
    expect(rows).toEqual([{ state: 'queued' }]);
    await server.start();
    await running(id);
    await server.json('POST', `renders/${id}/cancel`);
  });
});

test('while the database is away: a clear answer, and all is there when it is back', async () => {
  await server.line.cut();
  const { status, body } = await until(
    () => server.json('GET', 'sessions'),
    (answer) => answer.status !== 200,
  );
  expect([status, body['code']]).toEqual([503, 'database-down']);
  expect(await server.json('PUT', `sessions/${session.id}/document`, { revision: 1, document: session.document! })).toMatchObject({
    status: 503,
    body: { message: expect.stringContaining('What was saved is safe') },
  });
  await server.line.mend();
  const back = await until(
    () => server.json<SessionPage>('GET', 'sessions'),
    (answer) => answer.status === 200,
  );
  expect(back.body.rows.some(({ id }) => id === session.id)).toBe(true);
  const again = await server.bringIn('after.wav', readFileSync(files.path('in.wav')));
  expect(again.recording.job.state).toBe('done');
});

test('work that could not tell that it begins is given to somebody again', async () => {
  const broken = `BEGIN RAISE EXCEPTION 'the line broke' USING ERRCODE = '08006'; END`;
  await server.sql.query(`CREATE SCHEMA broken`);
  await server.sql.query(`CREATE FUNCTION broken.pg_notify(text, text) RETURNS void LANGUAGE plpgsql AS $$${broken}$$`);
  const [{ name }] = (await server.sql.query('SELECT current_database() AS name')).rows as [{ name: string }];
  await server.sql.query(`ALTER DATABASE ${name} SET search_path = broken, pg_catalog, public`);
  // Connections that are there do not know of it yet.
  await server.line.cut();
  await server.line.mend();
  await until(
    () => server.json('GET', 'sessions'),
    ({ status }) => status === 200,
  );
  const { id } = await server.render(session.id, session.revision);
  await until(
    () => server.findRender(session.id, id).then(({ job }) => job),
    ({ state }) => state === 'running',
  );
  await server.sql.query('DROP SCHEMA broken CASCADE');
  await until(
    () => server.findRender(session.id, id).then(({ job }) => job),
    ({ state }) => state === 'done',
  );
  await server.sql.query(`ALTER DATABASE ${name} RESET search_path`);
});

test('work that ends while the database is away ends nothing else: it is done again, and its result is there', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=r=48000:d=30:a=0.05:seed=6', '-c:a', 'flac', files.path('short.flac'));
  const short = await server.bringIn('short.flac', readFileSync(files.path('short.flac')));
  const { id } = await server.render(short.id, short.revision);
  await until(
    () => server.findRender(short.id, id),
    ({ job }) => job.state === 'running',
  );
  await server.line.cut();
  // Longer than the render takes, over and over: the server answers all the while.
  for (const end = Date.now() + 8000; Date.now() < end; await new Promise((resolve) => setTimeout(resolve, 200)))
    expect((await server.json('GET', 'sessions')).status).toBe(503);
  await server.line.mend();
  await until(
    () => server.findRender(short.id, id).then(({ job }) => job),
    ({ state }) => state === 'done',
  );
});
