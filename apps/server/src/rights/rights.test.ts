import { randomUUID } from 'node:crypto';
import type { ProductionView, RenderView, SessionPage, SessionView, TakeView } from '@euphonos/contracts';
import { chainToFile } from '@euphonos/engine';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { readFileSync } from 'node:fs';
import { sharedServer, type Person } from '../testing/shared-server.js';
import { until, type TestServer } from '../testing/test-server.js';

/** The demo's names are not in it: whatever is answered to a stranger must hold none of these words. */
const SECRET = 'Kestrel';

const files = scratchFolder();
let server: TestServer;
let owner: Person;
let stranger: Person;
let listener: Person;
let colleague: Person;
/** An id for every path that names one. */
let ids: Record<string, string>;
let routes: { readonly method: string; readonly path: string }[];

async function bringIn(person: Person, name: string): Promise<SessionView> {
  writeFloatWav(files.path('in.wav'), noise(-40, 1, 3));
  const response = await person.fetch(`recordings?name=${encodeURIComponent(name)}`, {
    method: 'POST',
    body: readFileSync(files.path('in.wav')) as BodyInit,
    headers: { 'content-type': 'application/octet-stream' },
  });
  const { sessionId } = (await response.json()) as { sessionId: string };
  return until(
    () => person.json<SessionView>('GET', `sessions/${sessionId}`).then(({ body }) => body),
    ({ document }) => document !== null,
  );
}

beforeAll(async () => {
  ({ server, owner } = await sharedServer());
  stranger = await owner.invites('Sten', 'engineer');
  colleague = await owner.invites('Cleo', 'engineer');
  listener = await owner.invites('Lio', 'listener');
  const session = await bringIn(owner, `${SECRET}.wav`);
  const { body: production } = await owner.json<ProductionView>('POST', 'productions', { name: SECRET });
  await owner.json('PATCH', 'sessions', { ids: [session.id], productionId: production.id });
  expect(await owner.shares(production.id, listener, 'listener')).toBe(204);
  expect(await owner.shares(production.id, colleague, 'engineer')).toBe(204);
  const { body: render } = await owner.json<RenderView>('POST', `sessions/${session.id}/renders`, { revision: session.revision });
  const take = {
    id: randomUUID(),
    sittingId: randomUUID(),
    name: SECRET,
    sampleRateHz: 48_000,
    channels: 1,
    device: 'x',
    preRollFrames: 0,
  };
  const { status: taken } = await owner.json<TakeView>('POST', 'takes', take);
  const { body: batch } = await owner.json('POST', 'batches', { name: SECRET, target: session.document!.target });
  const chain = chainToFile(session.document!.tracks[0]!.chain, SECRET);
  const { body: kept, status: keptStatus } = await owner.json('POST', 'chains', { file: chain });
  await owner.json('POST', `sessions/${session.id}/comments`, { text: SECRET, startFrame: 0 });
  const { rows: comments } = await server.sql.query('SELECT id FROM comment');
  const profileId = randomUUID();
  await server.sql.query(`INSERT INTO noise_profile (id, name, file) VALUES ($1, $2, '{}')`, [profileId, SECRET]);
  expect([taken, keptStatus]).toEqual([201, 201]);
  ids = {
    sessions: session.id,
    recordings: session.recording.id,
    productions: production.id,
    renders: render.id,
    takes: take.id,
    batches: batch['id'] as string,
    chains: kept['id'] as string,
    comments: comments[0].id as string,
    profiles: profileId,
    people: owner.id,
    invitations: randomUUID(),
    'sign-ins': randomUUID(),
    covers: 'a'.repeat(64),
  };
  const described = await owner.fetch('docs-json');
  const { paths } = (await described.json()) as { paths: Record<string, Record<string, unknown>> };
  routes = Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => ({ method: method.toUpperCase(), path })),
  );
});
afterAll(async () => {
  await server.close();
  files.remove();
});

/** The path with what it names: each id by the word before it. */
const filled = (path: string): string =>
  path
    .replace(/\/([\w-]+)\/\{(?:id|sha256)\}/g, (_, kind: string) => `/${kind}/${ids[kind] ?? `no-id-for-${kind}`}`)
    .replace('{personId}', owner.id)
    .replace('{windowId}', randomUUID())
    .replace('{channel}', '0');

/** Bodies that name what a path does not. */
const bodyOf = (path: string): object => {
  if (path === '/api/sessions') return { ids: [ids['sessions']], archived: true };
  if (path.endsWith('without-drift')) return { sessionId: ids['sessions'], ppm: 10 };
  return {};
};

async function ask(person: Person, { method, path }: { method: string; path: string }, token = person.token) {
  const controller = new AbortController();
  const response = await person.fetch(
    `${filled(path).replace(/^\/(api\/)?/, path.startsWith('/api/') ? '' : '../')}`,
    {
      method,
      signal: controller.signal,
      ...(method === 'GET' ? {} : { body: JSON.stringify(bodyOf(path)), headers: { 'content-type': 'application/json' } }),
    },
    token,
  );
  const isStream = /event-stream/.test(response.headers.get('content-type') ?? '');
  const text = isStream ? '' : await response.text();
  controller.abort();
  const code = /json/.test(response.headers.get('content-type') ?? '') ? ((JSON.parse(text) as { code?: string }).code ?? '') : '';
  return { name: `${method} ${path}`, status: response.status, code, text };
}

/** In parts, so that what a person may ask in a minute is not reached. */
async function askAll(person: Person, of = routes, token?: string) {
  const answers = [];
  for (const route of of) answers.push(await ask(person, route, token));
  return answers;
}

const OPEN = [
  'GET /api/who',
  'GET /health',
  'GET /metrics',
  'POST /api/invitations/look-up',
  'POST /api/invitations/take',
  'POST /api/sign-in',
];

test('the document tells of every route, and every path has something to ask for', () => {
  expect(routes.length).toBeGreaterThan(75);
  expect(routes.map(({ path }) => filled(path)).filter((path) => path.includes('no-id-for') || path.includes('{'))).toEqual([]);
});

test('without signing in nothing is answered but what must be', async () => {
  const nobody = Object.assign(Object.create(Object.getPrototypeOf(owner) as object) as Person, { server, cookie: '', token: '' });
  const answers = await askAll(nobody);
  expect(
    answers
      .filter(({ status }) => status !== 401)
      .map(({ name }) => name)
      .sort(),
  ).toEqual(OPEN);
  for (const { text } of answers) expect(text).not.toContain(SECRET);
  expect((await server.fetch('docs-json')).status).toBe(401);
});

test('no change is made without the token of the sign-in', async () => {
  const changes = routes.filter(({ method, path }) => method !== 'GET' && !OPEN.includes(`${method} ${path}`));
  expect(changes.length).toBeGreaterThan(40);
  for (const token of ['', stranger.token])
    for (const { name, status, code } of await askAll(owner, changes, token)) expect([name, status, code]).toEqual([name, 403, 'token']);
});

/** What an engineer may ask for who has a right to nothing of what there is: it is theirs, the studio's, or held to it by the answer. */
const OF_EVERY_ENGINEER = [
  'DELETE /api/second-step',
  'DELETE /api/sign-ins/{id}',
  'GET /api/batches',
  'GET /api/chains',
  'GET /api/chains/{id}/file',
  'GET /api/covers/{sha256}',
  'GET /api/events',
  'GET /api/people/names',
  'GET /api/productions',
  'GET /api/profiles',
  'GET /api/profiles/{id}/file',
  'GET /api/room',
  'GET /api/second-step',
  'GET /api/sessions',
  'GET /api/sign-ins',
  'GET /api/sign-ins/happened',
  'GET /api/simulated-microphone',
  'GET /api/takes',
  'POST /api/batches',
  'POST /api/bundles',
  'POST /api/chains',
  'POST /api/covers',
  'POST /api/invitations',
  'POST /api/password',
  'POST /api/presence',
  'POST /api/productions',
  'POST /api/profiles',
  'POST /api/prove',
  'POST /api/recordings',
  'POST /api/second-step',
  'POST /api/takes',
  'PUT /api/second-step',
];
/** The studio's library has names of its own. */
const LIBRARY = ['GET /api/chains', 'GET /api/chains/{id}/file', 'GET /api/profiles', 'GET /api/profiles/{id}/file'];
const ends = ({ path }: { path: string }): boolean => path === '/api/sign-out';

test('an engineer to whom nothing of it is shared finds nothing of it', async () => {
  const asked = routes.filter((route) => !ends(route) && !OPEN.includes(`${route.method} ${route.path}`));
  const answers = await askAll(stranger, asked);
  const refused = answers.filter(({ code, status }) => code === 'no-right' || (status === 404 && code === 'not-found'));
  const answered = answers.filter((answer) => !refused.includes(answer));
  const named = new Set(answered.map(({ name }) => name));
  // A cover, a device and a microphone that are not there are not found either.
  for (const name of ['DELETE /api/sign-ins/{id}', 'GET /api/covers/{sha256}', 'GET /api/simulated-microphone', 'POST /api/invitations'])
    named.add(name);
  expect([...named].sort()).toEqual(OF_EVERY_ENGINEER);
  for (const { name, text } of answers) if (!LIBRARY.includes(name)) expect([name, text.includes(SECRET)]).toEqual([name, false]);
  // What is there is refused alike to what is not.
  const there = await stranger.json('GET', `sessions/${ids['sessions']}`);
  const nowhere = await stranger.json('GET', `sessions/${randomUUID()}`);
  expect(there).toEqual(nowhere);
  expect(there.status).toBe(404);
});

test('a listener hears what is shared and changes nothing of it', async () => {
  const asked = routes.filter((route) => !ends(route) && !OPEN.includes(`${route.method} ${route.path}`));
  const answers = await askAll(listener, asked);
  const changed = answers.filter(
    ({ name, code, status }) => !name.startsWith('GET') && code !== 'no-right' && !(status === 404 && code === 'not-found'),
  );
  expect(changed.map(({ name }) => name).sort()).toEqual(
    [
      'DELETE /api/comments/{id}',
      'DELETE /api/second-step',
      'PATCH /api/comments/{id}',
      'POST /api/password',
      'POST /api/presence',
      'POST /api/prove',
      'POST /api/second-step',
      'POST /api/sessions/{id}/acceptances',
      'POST /api/sessions/{id}/comments',
      'PUT /api/second-step',
    ].filter((name) => name !== 'DELETE /api/comments/{id}'),
  );
  expect((await listener.json<SessionPage>('GET', 'sessions')).body.rows).toMatchObject([{ id: ids['sessions'], may: 'hear' }]);
  const file = await listener.fetch(`recordings/${ids['recordings']}/channels/0`, { headers: { range: 'bytes=0-99' } });
  expect([file.status, (await file.arrayBuffer()).byteLength]).toEqual([206, 100]);
});

test('whoever it is shared with works on it, until it is not any more', async () => {
  const { body: session } = await colleague.json<SessionView>('GET', `sessions/${ids['sessions']}`);
  expect(session.may).toBe('change');
  // A cover is had by whoever kept it, and with a session that has it; a hash alone is no right to it.
  const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);
  const kept = await owner.fetch('covers', { method: 'POST', body: png, headers: { 'content-type': 'application/octet-stream' } });
  const cover = (await kept.json()) as { sha256: string };
  const haveIt = (): Promise<number[]> =>
    Promise.all([owner, colleague, stranger].map(async (person) => (await person.fetch(`covers/${cover.sha256}`)).status));
  expect(await haveIt()).toEqual([200, 404, 404]);
  const document = { ...session.document, cover };
  const saved = await colleague.json('PUT', `sessions/${session.id}/document`, { revision: session.revision, document });
  expect(saved.status).toBe(200);
  expect(await haveIt()).toEqual([200, 200, 404]);
  // Not into a production of somebody else, nor what is theirs out of nothing.
  const { body: own } = await stranger.json<ProductionView>('POST', 'productions', { name: 'Own' });
  expect((await colleague.json('PATCH', 'sessions', { ids: [session.id], productionId: own.id })).status).toBe(404);
  expect((await stranger.json('PATCH', 'sessions', { ids: [session.id], productionId: own.id })).status).toBe(404);
  expect((await owner.json('DELETE', `productions/${ids['productions']}/people/${colleague.id}`)).status).toBe(204);
  expect((await colleague.json('GET', `sessions/${session.id}`)).status).toBe(404);
  expect(await haveIt()).toEqual([200, 404, 404]);
  expect(await owner.shares(ids['productions']!, listener, 'engineer')).toBe(422);
});

test('what somebody makes is theirs; a file goes into nobody else’s session, batch or sitting', async () => {
  const mine = await bringIn(stranger, 'mine.wav');
  expect((await stranger.json<SessionPage>('GET', 'sessions')).body.rows.map(({ id }) => id)).toEqual([mine.id]);
  expect((await colleague.json('GET', `sessions/${mine.id}`)).status).toBe(404);
  expect((await owner.json('GET', `sessions/${mine.id}`)).status).toBe(200);
  for (const where of [`session=${ids['sessions']}`, `batch=${ids['batches']}`]) {
    const response = await stranger.fetch(`recordings?name=x.wav&${where}`, {
      method: 'POST',
      body: 'x',
      headers: { 'content-type': 'application/octet-stream' },
    });
    expect([where, response.status]).toEqual([where, 404]);
  }
  const { rows } = await server.sql.query('SELECT sitting_id FROM take');
  for (const sittingId of [rows[0].sitting_id as string, ids['sessions']!]) {
    const take = { id: randomUUID(), sittingId, name: 'x', sampleRateHz: 48_000, channels: 1, device: 'x', preRollFrames: 0 };
    expect((await stranger.json('POST', 'takes', take)).status).toBe(404);
  }
});
