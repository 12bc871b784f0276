import { readFileSync } from 'node:fs';
import type { SavedDocument, SavedSteps, SessionView } from '@euphonos/contracts';
import { historyLog, record, replay, startHistory, undo, type Edit, type History, type HistoryLog } from '@euphonos/engine';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../../packages/media/src/testing/files.js';
import { TestServer } from '../testing/test-server.js';

const files = scratchFolder();
let server: TestServer;
let session: SessionView;
beforeAll(async () => {
  server = await TestServer.create();
  writeFloatWav(files.path('in.wav'), noise(-40, 1, 1));
  session = await server.bringIn('steps.wav', readFileSync(files.path('in.wav')));
});
afterAll(async () => {
  await server.close();
  files.remove();
});

const cutoff = (value: number): Edit => ({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value });
const done = (values: readonly number[]): History =>
  values.reduce((history, value) => record(history, cutoff(value)), startHistory(session.document!));
const tail = (history: History, from: number): SavedSteps => {
  const { start, past, future } = historyLog(history, Infinity);
  return { from, start: from === 0 ? start : null, past: past.slice(from), future };
};
let revision = 1;
const save = async (history: History, steps?: SavedSteps) => {
  const answer = await server.json<SavedDocument>('PUT', `sessions/${session.id}/document`, { revision, document: history.present, steps });
  if (answer.status === 200) revision = answer.body.revision;
  return answer;
};
const known = async (): Promise<HistoryLog | null> =>
  (await server.json<{ log: HistoryLog | null }>('GET', `sessions/${session.id}/steps`)).body.log;

test('steps are kept beside the document, a save brings only the new ones, and all of them lead from the start to where it stands', async () => {
  const values = Array.from({ length: 300 }, (_, i) => 60 + i);
  const first = done(values.slice(0, 200));
  expect((await save(first, tail(first, 0))).body).toMatchObject({ stepsKept: true });
  const second = undo(undo(done(values)));
  expect((await save(second, tail(second, 200))).body).toMatchObject({ stepsKept: true });
  const log = (await known())!;
  expect([log.past.length, log.future.length]).toEqual([298, 2]);
  expect(log.start).toEqual(session.document);
  expect(replay(log).present).toEqual(second.present);
  // Another way is taken from the tenth step on.
  const other = record(done(values.slice(0, 10)), cutoff(500));
  await save(other, tail(other, 10));
  expect(replay((await known())!).present).toEqual(other.present);
  expect((await known())!.past).toHaveLength(11);
});

test('who keeps steps that are not known is told to send all; a save without steps leaves none', async () => {
  const history = done([100, 110, 120]);
  await save(history);
  expect(await known()).toBeNull();
  expect((await save(history, tail(history, 2))).body).toMatchObject({ stepsKept: false });
  expect(await known()).toBeNull();
  expect((await save(history, tail(history, 0))).body).toMatchObject({ stepsKept: true });
  expect((await known())!.past).toHaveLength(3);
});

test('what is no list of edits is refused, with the document; so is a save of an older revision, with its steps', async () => {
  const history = done([130]);
  const before = await known();
  const bad = { from: 0, start: session.document, past: [['cut']], future: [] } as unknown as SavedSteps;
  expect(await save(history, bad)).toMatchObject({ status: 422, body: { code: 'steps-shape' } });
  const stale = { revision: revision - 1, document: history.present, steps: tail(history, 0) };
  expect((await server.json('PUT', `sessions/${session.id}/document`, stale)).status).toBe(409);
  expect(await known()).toEqual(before);
});
