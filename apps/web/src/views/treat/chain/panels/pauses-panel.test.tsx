/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import type { ListRow, TreatmentSettings } from '@euphonos/dsp';
import { createDocument, endOf } from '@euphonos/engine';
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { Provider } from 'react-redux';
import { activeTrack, closed, edited, opened, undone } from '../../../../store/session-slice.js';
import { store, useApp } from '../../../../store/store.js';
import { Places } from '../../../../workbench/places.js';
import { TreatmentBody } from '../treatment-body.js';
import { foundRows } from './use-found-pauses.js';

const RATE = 48_000;
const LENGTH = 10 * RATE;
const STEP = 0.01;
const view = {
  id: 's',
  name: 'Session',
  document: createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE, channels: 1 }),
  revision: 1,
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
} as unknown as SessionView;
const track = () => activeTrack(store.getState().session)!;
const pauses = (): TreatmentSettings => track().chain.treatments.find(({ kind }) => kind === 'pauses')!;
const rows = (): readonly ListRow[] => pauses()['pauses'] as readonly ListRow[];

/** Talk at -20 dBFS; a room at -60 from 2 to 4 s and from 6 to 7 s, in which a chair at 3 s reaches -35. */
const dbAt = (seconds: number): number =>
  (seconds >= 2 && seconds < 4) || (seconds >= 6 && seconds < 7) ? (seconds >= 3 && seconds < 3.2 ? -35 : -60) : -20;
const mockLevels = { stepSeconds: STEP, meanSquares: Float32Array.from({ length: 1000 }, (_, i) => 10 ** (dbAt(i * STEP) / 10)) };
const mockFindings = [
  {
    kind: 'pauses',
    spans: [
      { startSeconds: 2, endSeconds: 4 },
      { startSeconds: 6, endSeconds: 7 },
    ],
  },
  { kind: 'noise-passages', spans: [{ startSeconds: 2, endSeconds: 2.9 }] },
];
const mockBench = {
  sampleRateHz: RATE,
  lengthFrames: LENGTH,
  figuresOf: 'overall',
  subscribe: () => () => undefined,
  view: { show: jest.fn() },
  player: {
    frame: 0,
    knownFrames: Infinity,
    subscribe: () => () => undefined,
    seek: jest.fn(),
    read: async (from: number, to: number) => [new Float32Array(to - from).fill(0.01)],
  },
  levels: async () => mockLevels,
  get places() {
    return new Places(track().clips, RATE);
  },
};
jest.mock('../../../../workbench/workbench-context.js', () => ({
  useWorkbench: () => mockBench,
  useEffectOf: () => null,
  usePriceIfMeasured: () => null,
  useProfile: () => null,
  useSpectra: () => null,
  usePrice: () => null,
}));
jest.mock('../../../survey/use-survey.js', () => ({ useFindings: () => mockFindings, useSurvey: () => ({ view: null }) }));

function Card() {
  const settings = useApp(({ session }) => activeTrack(session)!.chain.treatments.find(({ kind }) => kind === 'pauses')!);
  const own = useApp(({ session }) => activeTrack(session)!);
  return <TreatmentBody track={own} settings={settings} />;
}
const press = (name: string | RegExp, role = 'button'): boolean => fireEvent.click(screen.getByRole(role, { name }));

beforeEach(async () => {
  globalThis.fetch = jest.fn(async () => ({ ok: true, status: 200, json: async () => ({ revision: 2 }) })) as unknown as typeof fetch;
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
  store.dispatch(opened(view));
  store.dispatch(edited({ type: 'add-treatment', trackId: 'track-1', kind: 'pauses', treatmentId: 'p' }));
  render(
    <Provider store={store}>
      <Card />
    </Provider>,
  );
  fireEvent.click(await screen.findByRole('button', { name: 'Find them' }));
});
afterEach(() => {
  cleanup();
  store.dispatch(closed());
});

test('found with thresholds from the gaps: the chair parts a pause where the level decides with the voice', () => {
  expect(pauses()['closeDbfs']).toBeLessThan(-50);
  expect((pauses()['openDbfs'] as number) - (pauses()['closeDbfs'] as number)).toBe(5);
  expect(rows().map(({ startSeconds }) => Math.round(startSeconds as number))).toEqual([2, 3, 6]);
});

test('a rule that moves finds them anew, in the same step; what was excepted stays so', () => {
  const steps = (): number => store.getState().session!.history!.past.length;
  act(
    () =>
      void store.dispatch(
        edited({
          type: 'set-parameter',
          trackId: 'track-1',
          treatmentId: 'p',
          name: 'pauses',
          value: rows().map((row, i) => (i === 2 ? { ...row, state: 'leave' } : row)),
        }),
      ),
  );
  const before = steps();
  press('voice', 'radio');
  expect(rows().map(({ state }) => state)).toEqual(['treat', 'leave']);
  expect(steps()).toBe(before + 1);
  act(() => void store.dispatch(undone()));
  expect(rows()).toHaveLength(3);
});

test('cut at a stroke: how many and how much shorter is told, one is given back, undo takes back the rest', async () => {
  press('cut', 'radio');
  const told = screen.getByText(/pauses, .* s shorter/).textContent!;
  const [, shorter, length] = /^3 pauses, (\d\.\d) s shorter: 0:0(\d\.\d) in all$/.exec(told)!;
  expect(Number(shorter) + Number(length)).toBeCloseTo(10, 1);
  press(/^Cut them/);
  await waitFor(() => expect(track().clips.length).toBe(4));
  // As told, to a tenth of a second, though each cut goes to where the sound goes on best.
  expect(Math.abs(endOf(track().clips) / RATE - Number(length))).toBeLessThan(0.1);
  expect(screen.getByText(/^0$/)).toBeTruthy();
  press(/^Give back the pause at 0:06|^Give back the pause at 0:04|^Give back the pause at 0:05/);
  expect(track().clips.length).toBe(3);
  act(() => {
    store.dispatch(undone());
    store.dispatch(undone());
  });
  expect(endOf(track().clips)).toBe(LENGTH);
});

test('filled with room tone of the survey’s passage, at the level of the room around', async () => {
  press('room tone', 'radio');
  press(/^Fill with room tone/);
  await waitFor(() => expect(track().clips.some(({ sound }) => sound.kind === 'room-tone')).toBe(true));
  expect(track().roomTone).toEqual({ startFrame: 2 * RATE, endFrame: Math.round(2.9 * RATE) });
  for (const { sound } of track().clips) if (sound.kind === 'room-tone') expect(Math.abs(sound.gainDb)).toBeLessThan(0.2);
  expect(endOf(track().clips)).toBe(LENGTH);
});

test('rows are found from levels and quiet alone', () => {
  const levels = Float32Array.from({ length: 1000 }, (_, i) => dbAt(i * STEP));
  const found = foundRows(
    levels,
    STEP,
    [{ startSeconds: 2, endSeconds: 4 }],
    { decides: 'both', openDbfs: -30, closeDbfs: -40, shortestWordMs: 60 },
    [{ startSeconds: 2.5, endSeconds: 3.5, state: 'leave' }],
  );
  expect(found).toEqual([{ startSeconds: 2, endSeconds: 4, state: 'leave' }]);
});
