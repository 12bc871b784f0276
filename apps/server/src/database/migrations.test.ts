import 'reflect-metadata';
import { randomUUID } from 'node:crypto';
import type { SessionView } from '@euphonos/contracts';
import { DataSource, type DataSourceOptions } from 'typeorm';
import { TestServer } from '../testing/test-server.js';
import { dataSourceOptions } from './data-source.js';

type Migrations = Extract<DataSourceOptions['migrations'], unknown[]>;
const all = dataSourceOptions('').migrations as Migrations;

/** A session as the first release kept it: its chain on its clip, one noise passage. */
const ids = { job: randomUUID(), recording: randomUUID(), session: randomUUID(), render: randomUUID() };
const document = {
  schemaVersion: 1,
  sampleRateHz: 48_000,
  target: { name: 'Podcast', integratedLufs: -16, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: null },
  tracks: [
    {
      id: 'track-1',
      name: 'ferry',
      role: 'speech',
      clips: [
        {
          id: 'clip-1',
          recordingId: ids.recording,
          startFrame: 0,
          source: { startFrame: 0, endFrame: 96_000 },
          channels: [0],
          chain: { treatments: [{ kind: 'noise-reduction', id: 't3', bypassed: false, reductionDb: 9 }] },
          noisePassage: { startFrame: 4800, endFrame: 24_000 },
          loop: null,
        },
      ],
    },
  ],
};
const facts = {
  format: 'wav',
  codec: 'pcm_s16le',
  fileSampleRateHz: 48_000,
  sampleRateHz: 48_000,
  channels: 1,
  lengthFrames: 96_000,
  figures: { noiseFloorDbfs: -60 },
  notes: [],
};

async function migrated(url: string, migrations: Migrations): Promise<DataSource> {
  const source = await new DataSource({ ...dataSourceOptions(url), migrations, entities: [] }).initialize();
  return source;
}

async function firstRelease(url: string): Promise<void> {
  const source = await migrated(url, all.slice(0, 1));
  await source.query(`INSERT INTO job (id, kind, session_id, subject_id, state) VALUES ($1, 'read', $2, $3, 'done')`, [
    ids.job,
    ids.session,
    ids.recording,
  ]);
  await source.query(
    `INSERT INTO recording (id, file_name, size_bytes, original_sha, facts, blobs, job_id) VALUES ($1, 'ferry.wav', 192044, $2, $3, $4, $5)`,
    [ids.recording, 'a'.repeat(64), facts, { channels: ['b'.repeat(64)], peaks: 'c'.repeat(64), spectrogram: 'd'.repeat(64) }, ids.job],
  );
  await source.query(`INSERT INTO session (id, name, recording_id, document, revision) VALUES ($1, 'ferry', $2, $3, 4)`, [
    ids.session,
    ids.recording,
    document,
  ]);
  await source.query(`INSERT INTO render (id, session_id, job_id, revision, document, file_name) VALUES ($1, $2, $3, 4, $4, 'ferry.wav')`, [
    ids.render,
    ids.session,
    ids.job,
    document,
  ]);
  await source.destroy();
}

/** Every column, key and rule, as text. */
async function shapeOf(url: string): Promise<string[]> {
  const source = await new DataSource({ type: 'postgres', url }).initialize();
  const rows = (await source.query(`
    SELECT table_name || '.' || column_name || ' ' || data_type || ' ' || is_nullable || ' ' || coalesce(column_default, '') AS line
      FROM information_schema.columns WHERE table_schema = 'public' AND table_name <> 'migrations'
    UNION ALL SELECT conrelid::regclass || ' ' || pg_get_constraintdef(oid) FROM pg_constraint WHERE connamespace = 'public'::regnamespace
    UNION ALL SELECT indexdef FROM pg_indexes WHERE schemaname = 'public' AND tablename <> 'migrations'
    ORDER BY 1`)) as { line: string }[];
  const kept = (await source.query('SELECT count(*)::int AS n FROM session_recording')) as { n: number }[];
  await source.destroy();
  return [...rows.map(({ line }) => line), `recordings of sessions: ${kept[0]!.n}`];
}

async function empty(): Promise<string> {
  const base = new URL(process.env['EUPHONOS_TEST_DATABASE_URL']!);
  const maker = await new DataSource({ type: 'postgres', url: base.href }).initialize();
  const name = `test_${randomUUID().replaceAll('-', '')}`;
  await maker.query(`CREATE DATABASE ${name}`);
  await maker.destroy();
  base.pathname = name;
  return base.href;
}

test('from every schema that ever was the way up leads to the same one, with what was there', async () => {
  const shapes: string[][] = [];
  for (let known = 1; known <= all.length; known++) {
    const url = await empty();
    await firstRelease(url);
    await (await migrated(url, all.slice(0, known))).destroy();
    await (await migrated(url, all)).destroy();
    shapes.push(await shapeOf(url));
  }
  expect(shapes[0]!.length).toBeGreaterThan(150);
  expect(shapes[0]!.at(-1)).toBe('recordings of sessions: 1');
  for (const shape of shapes) expect(shape).toEqual(shapes[0]);
});

test('a session of the first release opens, and is saved, in this one', async () => {
  const server = await TestServer.create((url) => firstRelease(url));
  try {
    const { status, body } = await server.json<SessionView>('GET', `sessions/${ids.session}`);
    expect(status).toBe(200);
    const [track] = body.document!.tracks;
    expect(track).toMatchObject({
      id: 'track-1',
      noise: { kind: 'passages', spans: [{ startFrame: 4800, endFrame: 24_000 }] },
      chain: { treatments: [{ kind: 'noise-reduction', reductionDb: 9, network: 'light' }] },
      clips: [{ source: { startFrame: 0, endFrame: 96_000 } }],
    });
    expect(await server.json('PUT', `sessions/${ids.session}/document`, { revision: 4, document: body.document! })).toMatchObject({
      status: 200,
      body: { revision: 5 },
    });
    expect((await server.json<object[]>('GET', `sessions/${ids.session}/renders`)).body).toHaveLength(1);
  } finally {
    await server.close();
  }
});
