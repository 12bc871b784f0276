import { readFileSync } from 'node:fs';
import type { PersonView, ProductionView, RoomView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { sharedServer, type Person } from '../testing/shared-server.js';
import type { TestServer } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
let owner: Person;
let engineer: Person;
let sizeBytes = 0;
beforeAll(async () => {
  ({ server, owner } = await sharedServer());
  engineer = await owner.invites('Ebba', 'engineer');
});
afterAll(async () => {
  await server.close();
  files.remove();
});

async function bringIn(person: Person, query = '') {
  writeFloatWav(files.path('in.wav'), noise(-40, 1, 3));
  const bytes = readFileSync(files.path('in.wav'));
  sizeBytes = bytes.length;
  const response = await person.fetch(`recordings?name=in.wav${query}`, {
    method: 'POST',
    body: bytes as BodyInit,
    headers: { 'content-type': 'application/octet-stream' },
  });
  return { status: response.status, body: (await response.json()) as { sessionId: string; code?: string; message?: string } };
}

test('a person holds what an owner has set, and is told before a byte is kept', async () => {
  expect((await bringIn(engineer)).status).toBe(201);
  expect((await engineer.json('PATCH', `people/${engineer.id}`, { mostBytes: 10 ** 12 })).status).toBe(403);
  expect((await owner.json('PATCH', `people/${engineer.id}`, { mostBytes: Math.round(2.5 * sizeBytes) })).status).toBe(204);
  expect((await bringIn(engineer)).status).toBe(201);
  const third = await bringIn(engineer);
  expect([third.status, third.body.code]).toEqual([507, 'quota-person']);
  expect(third.body.message).toMatch(/Nothing was kept of it. Delete sessions for good/);
  expect((await engineer.json<RoomView>('GET', 'room')).body).toMatchObject({
    usedBytes: 2 * sizeBytes,
    mostBytes: Math.round(2.5 * sizeBytes),
  });
  const { body: people } = await owner.json<PersonView[]>('GET', 'people');
  expect(people.find(({ id }) => id === engineer.id)).toMatchObject({ usedBytes: 2 * sizeBytes });
  // Others are not held to it, and whoever makes room goes on.
  expect((await bringIn(owner)).status).toBe(201);
  const { body: mine } = await engineer.json<{ rows: { id: string }[] }>('GET', 'sessions');
  expect((await engineer.json('DELETE', `sessions/${mine.rows[0]!.id}?final=true`)).status).toBe(204);
  expect((await bringIn(engineer)).status).toBe(201);
});

test('two that come at once do not pass each other by', async () => {
  expect((await owner.json('PATCH', `people/${engineer.id}`, { mostBytes: Math.round(3.5 * sizeBytes) })).status).toBe(204);
  const answers = await Promise.all([bringIn(engineer), bringIn(engineer), bringIn(engineer)]);
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 507, 507]);
  expect((await engineer.json<RoomView>('GET', 'room')).body.usedBytes).toBe(3 * sizeBytes);
  expect((await owner.json('PATCH', `people/${engineer.id}`, { mostBytes: null })).status).toBe(204);
  expect((await bringIn(engineer)).status).toBe(201);
});

test('a production holds what an owner has set, by moving as well as by bringing in', async () => {
  const { body: production } = await engineer.json<ProductionView>('POST', 'productions', { name: 'Ferries' });
  expect((await engineer.json('PATCH', `productions/${production.id}`, { mostBytes: 10 ** 12 })).status).toBe(403);
  expect((await owner.json('PATCH', `productions/${production.id}`, { mostBytes: Math.round(1.5 * sizeBytes) })).status).toBe(200);
  const { body: mine } = await engineer.json<{ rows: { id: string }[] }>('GET', 'sessions');
  const [first, second] = mine.rows.map(({ id }) => id);
  expect((await engineer.json('PATCH', 'sessions', { ids: [first], productionId: production.id })).status).toBe(204);
  const moved = await engineer.json('PATCH', 'sessions', { ids: [second], productionId: production.id });
  expect([moved.status, moved.body['code']]).toEqual([507, 'quota-production']);
  const added = await bringIn(engineer, `&session=${first}`);
  expect([added.status, added.body.code]).toEqual([507, 'quota-production']);
});
