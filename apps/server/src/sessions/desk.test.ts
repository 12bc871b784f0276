import { readFileSync } from 'node:fs';
import type { ChainView, ProductionView, SessionPage, SessionRow, SessionView } from '@euphonos/contracts';
import { parseChain } from '@euphonos/dsp';
import { applyEdit, chainToFile, type Edit, type SessionDocument } from '@euphonos/engine';
import { joined, mixed, noise, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer, until } from '../testing/test-server.js';

const files = scratchFolder();
writeFloatWav(files.path('talk.wav'), mixed(joined(silence(0.5), sine(300, -18, 1.5), silence(0.5)), noise(-55, 2.5, 3)));
writeFloatWav(files.path('bed.wav'), sine(150, -30, 4));
const talk = readFileSync(files.path('talk.wav'));
const bed = readFileSync(files.path('bed.wav'));

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
});
afterAll(async () => {
  await server.close();
  files.remove();
});

const page = async (query = ''): Promise<SessionPage> => (await server.json<SessionPage>('GET', `sessions?${query}`)).body;
const names = async (query: string): Promise<string[]> => (await page(query)).rows.map(({ name }) => name);
const change = (body: object) => server.json('PATCH', 'sessions', body);
const save = (view: SessionView, document: SessionDocument) =>
  server.json<{ revision: number }>('PUT', `sessions/${view.id}/document`, { revision: view.revision, document });
const edit = (view: SessionView, ...edits: Edit[]): SessionDocument => edits.reduce(applyEdit, view.document!);

describe('the list', () => {
  let sessions: SessionView[];
  let production: ProductionView;
  beforeAll(async () => {
    sessions = [
      await server.bringIn('Weir, take 2.wav', talk),
      await server.bringIn('Harbour.wav', bed),
      await server.bringIn('no sound.wav', Buffer.from('nothing '.repeat(99))),
    ];
    production = (await server.json<ProductionView>('POST', 'productions', { name: 'Water 100%' })).body;
  });

  test('is light: what it shows, and no document', async () => {
    const { rows, total } = await page('sort=length');
    expect(total).toBe(3);
    expect(rows.map(({ name, seconds, tracks, left }) => [name, seconds, tracks, left])).toEqual([
      ['Harbour', 4, 1, 'treat'],
      ['Weir, take 2', 2.5, 1, 'treat'],
      ['no sound', null, 0, 'broken'],
    ]);
    expect(JSON.stringify(rows)).not.toContain('treatments');
    expect(rows[0]!.recording).toMatchObject({ fileName: 'Harbour.wav', channels: 1, lengthFrames: 192_000, job: { state: 'done' } });
  });

  test('is searched by words, sorted both ways, and sent in pages', async () => {
    expect(await names('search=take%20weir')).toEqual(['Weir, take 2']);
    expect(await names('search=harbour.wav')).toEqual(['Harbour']);
    expect(await names('search=%25')).toEqual([]);
    expect(await names('sort=name')).toEqual(['Harbour', 'no sound', 'Weir, take 2']);
    expect(await names('sort=name&reverse=true&limit=1')).toEqual(['Weir, take 2']);
    expect(await names('sort=name&offset=1&limit=1')).toEqual(['no sound']);
    expect(await names('left=broken')).toEqual(['no sound']);
    expect((await server.json('GET', 'sessions?sort=anything')).status).toBe(400);
    expect((await server.json('GET', 'sessions?limit=5000')).status).toBe(400);
  });

  test('sessions are moved into a production, found by its name, put away with it, and stay when it goes', async () => {
    const [weir, harbour] = sessions as [SessionView, SessionView];
    expect((await change({ ids: [weir.id, harbour.id], productionId: production.id })).status).toBe(204);
    expect((await page('search=100%25')).total).toBe(2);
    expect(await names(`production=${production.id}&sort=name`)).toEqual(['Harbour', 'Weir, take 2']);
    expect(await names('production=none')).toEqual(['no sound']);
    expect((await server.json<ProductionView[]>('GET', 'productions')).body).toEqual([
      { ...production, sessions: 2, usedBytes: expect.any(Number) as number },
    ]);
    await server.json('PATCH', `productions/${production.id}`, { archived: true, name: 'Water' });
    expect(await names('')).toEqual(['no sound']);
    expect((await page('shelf=archive')).total).toBe(2);
    await server.json('PATCH', `productions/${production.id}`, { archived: false });
    await change({ ids: [weir.id], archived: true });
    expect(await names('shelf=archive')).toEqual(['Weir, take 2']);
    await change({ ids: [weir.id], archived: false, productionId: null });
    expect((await server.json('DELETE', `productions/${production.id}`)).status).toBe(204);
    expect((await page('production=none')).total).toBe(3);
    expect(await change({ ids: [weir.id], productionId: production.id })).toMatchObject({ status: 404, body: { code: 'not-found' } });
    expect((await change({ ids: [], archived: true })).status).toBe(400);
  });

  test('what is deleted can be had back; for good it goes after thirty days, or at once', async () => {
    const [weir] = sessions as [SessionView];
    expect((await server.json('DELETE', `sessions/${weir.id}`)).status).toBe(204);
    expect(await server.json('GET', `sessions/${weir.id}`)).toMatchObject({ status: 404, body: { code: 'session-deleted' } });
    expect(await save(weir, weir.document!)).toMatchObject({ status: 404 });
    expect((await page()).total).toBe(2);
    const [row] = (await page('shelf=deleted')).rows as [SessionRow];
    expect([row.name, typeof row.deletedAt]).toEqual(['Weir, take 2', 'string']);
    await change({ ids: [weir.id], deleted: false });
    expect((await server.json('GET', `sessions/${weir.id}`)).status).toBe(200);
    await change({ ids: [weir.id], deleted: true });
    await server.sql.query("UPDATE session SET deleted_at = now() - interval '29 days' WHERE id = $1", [weir.id]);
    await server.end();
    await server.start();
    expect((await page('shelf=deleted')).total).toBe(1);
    await server.sql.query("UPDATE session SET deleted_at = now() - interval '31 days' WHERE id = $1", [weir.id]);
    await server.end();
    await server.start();
    await until(
      () => page('shelf=deleted'),
      ({ total }) => total === 0,
    );
    expect((await server.fetch(`recordings/${weir.recording.id}/peaks`)).status).toBe(404);
  });

  test('says what is left to do: after a change, after a delivery, after a change of that', async () => {
    const view = await server.bringIn('Left.wav', talk);
    const left = async (): Promise<SessionRow> => (await page('search=Left')).rows[0]!;
    const target = { ...view.document!.target, integratedLufs: -20, ceilingDbtp: -1, noiseFloorDbfs: null };
    const { body } = await save(view, edit(view, { type: 'set-target', target }));
    expect((await left()).left).toBe('hand-over');
    const { id } = await server.render(view.id, body.revision);
    await server.renderEnd(view.id, id);
    expect(await left()).toMatchObject({ left: 'done', lastDelivery: { passed: true, integratedLufs: expect.closeTo(-20, 0) } });
    const changed = { ...view, revision: body.revision };
    await save(changed, edit(changed, { type: 'set-target', target: { ...target, noiseFloorDbfs: -90 } }));
    expect((await left()).left).toBe('hand-over');
    const second = await server.render(view.id, body.revision + 1);
    await server.renderEnd(view.id, second.id);
    expect(await left()).toMatchObject({ left: 'missed', lastDelivery: { passed: false } });
  });
});

test('five thousand sessions: a page of them takes no longer than the eye', async () => {
  await server.sql.query(`
    INSERT INTO job (id, kind, session_id, subject_id, state) SELECT gen_random_uuid(), 'read', gen_random_uuid(), gen_random_uuid(), 'done' FROM generate_series(1, 5000);
    INSERT INTO recording (id, file_name, size_bytes, original_sha, job_id) SELECT gen_random_uuid(), 'many ' || row_number() OVER () || '.wav', 1, 'none', id
      FROM job WHERE NOT EXISTS (SELECT 1 FROM recording WHERE job_id = job.id) AND kind = 'read' AND state = 'done' AND session_id NOT IN (SELECT id FROM session);
    INSERT INTO session (id, name, revision, seconds) SELECT id, file_name, 1, 60 FROM recording WHERE file_name LIKE 'many %';
    INSERT INTO session_recording (session_id, recording_id, place) SELECT id, id, 0 FROM recording WHERE file_name LIKE 'many %';
    ANALYZE;`);
  const { total, rows } = await page('search=many&offset=4940&limit=60&sort=name');
  expect([total, rows.length]).toEqual([5000, 60]);
  // Not a timed test: that the plan reads no document and no more rows than it must is what counts, and a page stays small.
  expect(JSON.stringify(rows).length).toBeLessThan(60 * 1200);
});

test('chains are kept, renamed, changed, read back as a file, refused when they are none', async () => {
  const file = chainToFile(parseChain({ treatments: [{ kind: 'high-pass', cutoffHz: 90 }] }), 'Tent', 'canvas and wind');
  const kept = (await server.json<ChainView>('POST', 'chains', { file })).body;
  expect(kept.file).toEqual(file);
  const other = { ...file, treatments: parseChain({ treatments: [{ kind: 'gate' }] }).treatments };
  const changed = (await server.json<ChainView>('PATCH', `chains/${kept.id}`, { name: 'Tent at night', file: other })).body;
  expect(changed.file).toEqual({ ...other, name: 'Tent at night' });
  const response = await server.fetch(`chains/${kept.id}/file`);
  expect(response.headers.get('content-disposition')).toContain('Tent at night.chain.json');
  expect(await response.json()).toEqual(changed.file);
  expect((await server.json<ChainView[]>('GET', 'chains')).body).toHaveLength(1);
  expect(await server.json('POST', 'chains', { file: { ...file, version: 7 } })).toMatchObject({
    status: 422,
    body: { code: 'chain-file' },
  });
  expect(await server.json('POST', 'chains', { file: { ...file, treatments: [{ kind: 'magic' }] } })).toMatchObject({
    status: 422,
    body: { code: 'treatment-unknown' },
  });
  await server.json('PATCH', `chains/${kept.id}`, { forNew: true });
  const next = await server.bringIn('night.wav', talk);
  expect(next.document!.tracks[0]!.chain.treatments.map(({ kind }) => kind)).toEqual(['gate']);
  expect((await server.json('DELETE', `chains/${kept.id}`)).status).toBe(204);
  expect((await server.json('GET', `chains/${kept.id}/file`)).status).toBe(404);
});

test('a recording is read once more with its drift taken out, and can take the place of the other', async () => {
  const session = await server.bringIn('drift.wav', bed);
  const { recording } = session;
  const ppm = 200;
  const { recordingId } = (
    await server.json<{ recordingId: string }>('POST', `recordings/${recording.id}/without-drift`, { sessionId: session.id, ppm })
  ).body;
  const view = await until(
    () => server.json<SessionView>('GET', `sessions/${session.id}`).then(({ body }) => body),
    ({ recordings }) => recordings.find(({ id }) => id === recordingId)?.facts !== null && recordings.length === 2,
  );
  const made = view.recordings.find(({ id }) => id === recordingId)!;
  const length = Math.round(192_000 * (1 + ppm * 1e-6));
  expect(Math.abs(made.facts!.lengthFrames - length)).toBeLessThanOrEqual(8);
  expect(made.driftPpm).toBe(ppm);
  // Its tone of 150 Hz is lower by as much: the phase of its last second tells to a tenth of that.
  const samples = new Float32Array(await (await server.fetch(`recordings/${recordingId}/channels/0`)).arrayBuffer());
  const crossings = samples.reduce(
    (count, x, n) => (n > 0 && x >= 0 && samples[n - 1]! < 0 ? [...count, n - x / (x - samples[n - 1]!)] : count),
    [] as number[],
  );
  const hz = ((crossings.length - 11) * 48_000) / (crossings[crossings.length - 6]! - crossings[5]!);
  expect((150 / hz - 1) * 1e6).toBeCloseTo(ppm, -1);
  const next = edit(view, {
    type: 'take-drift-out',
    trackId: 'track-1',
    atFrame: 0,
    recording: { id: recordingId, name: 'drift', lengthFrames: made.facts!.lengthFrames, sampleRateHz: 48_000, channels: 1 },
  });
  expect((await save(view, next)).status).toBe(200);
  expect(await server.json('POST', `recordings/${recording.id}/without-drift`, { sessionId: session.id, ppm: 9000 })).toMatchObject({
    status: 400,
  });
});
