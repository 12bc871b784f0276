/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { activeTrack, closed, edited, keptMine, opened, redone, shownTrack, undone } from './session-slice.js';
import { changed, waveZoomed } from './listening-slice.js';
import { findDraft } from './drafts.js';
import { findHistory } from './kept-history.js';
import { store } from './store.js';

const document = createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48000, channels: 1 });
const view = (revision = 3): SessionView => ({
  id: 's',
  name: 'Session',
  document,
  revision,
  createdAt: '',
  updatedAt: '',
  lastDelivery: null,
  recordings: [],
  gathering: false,
  recording: {
    id: 'r',
    fileName: 'n.wav',
    sizeBytes: 1,
    facts: null,
    job: { id: 'j', kind: 'read', state: 'done', progress: 1, problem: null },
  },
});
const session = () => store.getState().session!;
const cutoff = (value: number) => edited({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value });
const answers: { status: number; body: object }[] = [];
const sent: { url: string; body: { revision: number; document: unknown } }[] = [];

beforeEach(() => {
  jest.useFakeTimers();
  sent.length = 0;
  answers.length = 0;
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    if (init.method === 'PUT') sent.push({ url, body: JSON.parse(init.body as string) });
    const answer = answers.shift();
    if (!answer) throw new TypeError('Failed to fetch');
    return { ok: answer.status < 400, status: answer.status, json: async () => answer.body } as Response;
  }) as unknown as typeof fetch;
  localStorage.clear();
  store.dispatch(opened(view()));
});
afterEach(() => {
  store.dispatch(closed());
  jest.useRealTimers();
});
const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms);

test('an edit is saved within a second, from the revision it started from', async () => {
  answers.push({ status: 200, body: { revision: 4 } });
  store.dispatch(cutoff(100));
  expect(session().save.kind).toBe('waiting');
  await pass(1000);
  expect(sent).toHaveLength(1);
  expect(sent[0]).toMatchObject({ url: '/api/sessions/s/document', body: { revision: 3, document: session().history!.present } });
  expect(session()).toMatchObject({ revision: 4, save: { kind: 'saved' } });
});

test('edits that follow each other are one save; one made while saving is saved next', async () => {
  answers.push({ status: 200, body: { revision: 4 } }, { status: 200, body: { revision: 5 } });
  for (let i = 0; i < 5; i++) {
    store.dispatch(cutoff(100 + i));
    await pass(100);
  }
  await pass(499);
  expect(sent).toHaveLength(1);
  store.dispatch(cutoff(300));
  await pass(1000);
  expect(sent.map(({ body: { revision } }) => revision)).toEqual([3, 4]);
  expect(session().save.kind).toBe('saved');
});

test('a step made and undone while a save is under way can be redone elsewhere: its future is saved next', async () => {
  answers.push({ status: 200, body: { revision: 4, stepsKept: true } }, { status: 200, body: { revision: 5, stepsKept: true } });
  const steps = () => (sent.at(-1)!.body as unknown as { steps: { future: readonly unknown[] } }).steps;
  let answer = (): void => undefined;
  const fetchNow = globalThis.fetch;
  globalThis.fetch = (async (url: string, init: RequestInit) => {
    const response = await fetchNow(url, init);
    await new Promise<void>((resolve) => (answer = resolve));
    return response;
  }) as unknown as typeof fetch;
  store.dispatch(cutoff(100));
  await pass(600);
  expect(session().save.kind).toBe('saving');
  await pass(1000);
  store.dispatch(cutoff(200));
  store.dispatch(undone());
  answer();
  await pass(600);
  answer();
  await pass(100);
  expect(session()).toMatchObject({ revision: 5, save: { kind: 'saved' } });
  expect(steps().future).toHaveLength(1);
});

test('without the server the work is kept and saved when it is back', async () => {
  store.dispatch(cutoff(100));
  await pass(600);
  expect(session().save).toMatchObject({ kind: 'retrying', message: expect.stringContaining('saved as soon as it is back') });
  answers.push({ status: 503, body: { code: 'database-down', message: 'm' } }, { status: 200, body: { revision: 4 } });
  await pass(6000);
  expect(session().save.kind).toBe('saved');
  expect(activeTrack(session())!.chain.treatments[0]!['cutoffHz']).toBe(100);
});

test('a stale save waits for the user; keeping one’s own saves over the newer revision', async () => {
  answers.push({ status: 409, body: { code: 'stale-revision', message: 'changed elsewhere', data: { revision: 9 } } });
  store.dispatch(cutoff(100));
  await pass(600);
  expect(session().save).toMatchObject({ kind: 'stale', revision: 9 });
  store.dispatch(cutoff(110));
  await pass(3000);
  expect(sent).toHaveLength(1);
  answers.push({ status: 200, body: { revision: 10 } });
  store.dispatch(keptMine());
  await pass(1000);
  expect(sent[1]!.body.revision).toBe(9);
  expect(session()).toMatchObject({ revision: 10, save: { kind: 'saved' } });
});

test('a refused save says why, and is not repeated', async () => {
  answers.push({ status: 422, body: { code: 'document-shape', message: 'tracks must be a list' } });
  store.dispatch(cutoff(100));
  await pass(8000);
  expect(sent).toHaveLength(1);
  expect(session().save).toEqual({ kind: 'refused', message: 'tracks must be a list' });
});

test('undo and redo are edits that are saved', async () => {
  answers.push({ status: 200, body: { revision: 4 } }, { status: 200, body: { revision: 5 } });
  store.dispatch(cutoff(100));
  await pass(1000);
  store.dispatch(undone());
  await pass(1000);
  expect(sent[1]!.body.document).toEqual(JSON.parse(JSON.stringify(document)));
  store.dispatch(redone());
  expect(activeTrack(session())!.chain.treatments[0]!['cutoffHz']).toBe(100);
});

test('the vertical zoom of the wave stays within what can be seen', () => {
  const listening = () => store.getState().listening;
  for (let i = 0; i < 9; i++) store.dispatch(waveZoomed(1));
  expect(listening().waveFloorDbfs).toBe(-108);
  store.dispatch(changed({ waveScale: 'linear' }));
  for (let i = 0; i < 20; i++) store.dispatch(waveZoomed(1));
  expect(listening().waveHeightDbfs).toBe(-72);
  for (let i = 0; i < 20; i++) store.dispatch(waveZoomed(-1));
  expect(listening().waveHeightDbfs).toBe(0);
});

describe('what was not saved when the page went away', () => {
  const leaveUnsaved = async (value: number): Promise<void> => {
    store.dispatch(cutoff(value));
    await pass(700);
    store.dispatch(closed());
    await pass(700);
    sent.length = 0;
  };
  const heldCutoff = () => activeTrack(session())!.chain.treatments[0]!['cutoffHz'];

  test('is kept in the browser, and saved the next time', async () => {
    await leaveUnsaved(120);
    answers.push({ status: 200, body: { revision: 4 } });
    store.dispatch(opened(view(), findDraft('s')));
    expect([heldCutoff(), session().save.kind]).toEqual([120, 'waiting']);
    expect(session().history!.past.map(({ label }) => label)).toEqual(['Changes that had not been saved']);
    await pass(700);
    expect(session().save.kind).toBe('saved');
    expect(findDraft('s')).toBeNull();
    store.dispatch(undone());
    expect(heldCutoff()).toBe(80);
  });

  test('is put to the user when somebody else has saved in between', async () => {
    await leaveUnsaved(120);
    store.dispatch(opened(view(8), findDraft('s')));
    expect(session().save).toMatchObject({
      kind: 'stale',
      revision: 8,
      message: expect.stringContaining('revision 8 was saved elsewhere'),
    });
    await pass(3000);
    expect(sent).toHaveLength(0);
  });

  test('is forgotten when it is what is saved anyway', async () => {
    await leaveUnsaved(120);
    const { document: kept } = findDraft('s')!;
    store.dispatch(opened({ ...view(9), document: kept }, findDraft('s')));
    expect(session().save.kind).toBe('saved');
    expect(findDraft('s')).toBeNull();
  });
});

test('a session that is left right after an edit is saved at once', async () => {
  answers.push({ status: 200, body: { revision: 4 } });
  store.dispatch(cutoff(140));
  store.dispatch(closed());
  await pass(50);
  expect(sent).toHaveLength(1);
  expect(findDraft('s')).toBeNull();
});

test('an answer that was lost on its way is not taken for somebody else’s change', async () => {
  store.dispatch(cutoff(150));
  const mine = JSON.parse(JSON.stringify(session().history!.present)) as typeof document;
  answers.push(
    { status: 409, body: { code: 'stale-revision', message: 'm', data: { revision: 4 } } },
    { status: 200, body: { ...view(4), document: mine } },
  );
  await pass(700);
  expect(session()).toMatchObject({ revision: 4, save: { kind: 'saved' } });
});

test('what was done survives a reload: it can be undone, and what was undone done again', async () => {
  answers.push({ status: 200, body: { revision: 4 } });
  store.dispatch(cutoff(100));
  await pass(1000);
  store.dispatch(edited({ type: 'bypass-treatment', trackId: 'track-1', treatmentId: 't1', bypassed: true }));
  store.dispatch(undone());
  await pass(400);
  const now = session().history!;
  store.dispatch(closed());
  const saved = { ...view(4), document: now.present };
  store.dispatch(opened(saved, null, findHistory('s', now.present)));
  expect(session().history!.past.map(({ label }) => label)).toEqual(['High-pass: Cutoff 100 Hz']);
  expect(session().history!.future.map(({ label }) => label)).toEqual(['Bypass High-pass']);
  store.dispatch(undone());
  expect(session().history!.present).toEqual(document);
  // A document that came by another way has another history.
  expect(findHistory('s', { ...now.present, sampleRateHz: 44100 })).toBeNull();
  localStorage.setItem('euphonos.history.s', '{');
  expect(findHistory('s', now.present)).toBeNull();
});

test('a version that is shown is heard in place of the present track, until it is left or gone', () => {
  store.dispatch(cutoff(100));
  store.dispatch(edited({ type: 'keep-version', id: 'v1', name: 'Low', keptAt: '2026-11-26T04:00:00.000Z' }));
  store.dispatch(cutoff(200));
  const heard = (version: string | null) => shownTrack(session(), { shownVersion: version })!.chain.treatments[0]!['cutoffHz'];
  expect([heard(null), heard('v1'), heard('gone')]).toEqual([200, 100, 200]);
  store.dispatch(edited({ type: 'restore-version', id: 'v1', name: 'Low' }));
  expect(heard(null)).toBe(100);
  store.dispatch(undone());
  expect(heard(null)).toBe(200);
});

test('steps that could not be saved before a reload are there again too, not only their outcome', async () => {
  store.dispatch(cutoff(100));
  await pass(1000);
  const draft = findDraft('s')!;
  expect(session().save.kind).toBe('retrying');
  store.dispatch(closed());
  store.dispatch(opened(view(), draft, findHistory('s', draft.document)));
  expect(session()).toMatchObject({ save: { kind: 'waiting' }, revision: 3 });
  expect(session().history!.past.map(({ label }) => label)).toEqual(['High-pass: Cutoff 100 Hz']);
  store.dispatch(undone());
  expect(session().history!.present).toEqual(document);
});
