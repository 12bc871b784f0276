import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { HoldView, SessionView } from '@euphonos/contracts';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer } from '../testing/test-server.js';

const files = scratchFolder();
const [first, second] = [randomUUID(), randomUUID()];
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('in.wav'), noise(-40, 2, 1));
  session = await server.bringIn('held.wav', readFileSync(files.path('in.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});
const hold = async (windowId: string, take = false): Promise<HoldView> =>
  (await server.json<HoldView>('POST', `sessions/${session.id}/hold`, { windowId, take })).body;

test('one window works on a session; the second is told since when, and may take it over; then the first is told', async () => {
  const mine = await hold(first);
  expect(mine).toMatchObject({ held: true, revision: session.revision });
  expect(await hold(first)).toEqual(mine);
  expect(await hold(second)).toEqual({ ...mine, held: false });
  expect((await hold(second, true)).held).toBe(true);
  expect((await hold(first)).held).toBe(false);
});

test('of two that take it at once one has it', async () => {
  await Promise.all([hold(first, true), hold(second, true)]);
  expect((await Promise.all([hold(first), hold(second)])).filter(({ held }) => held)).toHaveLength(1);
});

test('a window that leaves lets go, of its own hold alone; one that is not heard of any more has gone', async () => {
  await hold(first, true);
  await server.json('DELETE', `sessions/${session.id}/hold/${second}`);
  expect((await hold(second)).held).toBe(false);
  await server.json('DELETE', `sessions/${session.id}/hold/${first}`);
  expect((await hold(second)).held).toBe(true);
  await server.sql.query(`UPDATE session_hold SET seen_at = now() - interval '20 seconds'`);
  expect((await hold(first)).held).toBe(true);
});

test('a session that is not there, a window without a name: refused', async () => {
  expect((await server.json('POST', `sessions/${randomUUID()}/hold`, { windowId: first })).status).toBe(404);
  expect((await server.json('POST', `sessions/${session.id}/hold`, { windowId: 'me' })).status).toBe(400);
});
