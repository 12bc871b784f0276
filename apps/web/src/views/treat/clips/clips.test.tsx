/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument, type Clip } from '@euphonos/engine';
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { Provider } from 'react-redux';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, closed, edited, opened, undone } from '../../../store/session-slice.js';
import { store } from '../../../store/store.js';
import { Places } from '../../../workbench/places.js';
import { ClipSheet } from './clip-sheet.js';
import { SelectionEdits } from './selection-edits.js';
import { useClipKeys } from './use-clip-keys.js';

const LENGTH = 480_000;
const RATE = 48_000;
const facts = { lengthFrames: LENGTH, sampleRateHz: RATE, channels: 1 };
const view = {
  id: 's',
  name: 'Session',
  document: createDocument({ id: 'r', name: 'n', ...facts }),
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
const clips = (): readonly Clip[] => track().clips;

/** A sound that changes its sign every 100 frames. */
const mockPlayer = {
  frame: 0,
  playing: false,
  seek: jest.fn((frame: number) => (mockPlayer.frame = frame)),
  read: jest.fn(async (from: number, to: number) => [
    Float32Array.from({ length: to - from }, (_, n) => (Math.floor((from + n) / 100) % 2 === 0 ? 0.1 : -0.1)),
  ]),
};
const mockView = {
  show: jest.fn(),
  scroll: jest.fn(),
  pxAt: (frame: number) => frame / 600,
  startFrame: 0,
  endFrame: LENGTH,
  framesPerPx: 600,
  widthPx: 800,
  subscribe: () => () => undefined,
};
jest.mock('../../../workbench/workbench-context.js', () => ({
  useWorkbench: () => ({
    sampleRateHz: RATE,
    player: mockPlayer,
    view: mockView,
    lengthFrames: LENGTH,
    levels: async () => ({ stepSeconds: 0.01, meanSquares: new Float32Array(1000).fill(1e-5) }),
    get places() {
      return new Places(clips(), RATE);
    },
  }),
}));
jest.mock('../../survey/use-survey.js', () => ({
  useFindings: () => [{ kind: 'noise-passages', spans: [{ startSeconds: 8, endSeconds: 9 }] }],
}));

function Desk() {
  useClipKeys();
  return (
    <>
      <SelectionEdits />
      <ClipSheet />
    </>
  );
}
const select = (startFrame: number, endFrame: number): void =>
  act(() => void store.dispatch(changed({ selection: { startFrame, endFrame } })));
const key = (letter: string, more: object = {}): boolean =>
  fireEvent.keyDown(document.body, { key: letter, code: `Key${letter.toUpperCase()}`, ...more });

beforeEach(() => {
  globalThis.fetch = jest.fn(async () => ({ ok: true, status: 200, json: async () => ({ revision: 2 }) })) as unknown as typeof fetch;
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
  mockPlayer.frame = 0;
  store.dispatch(opened(view));
  render(
    <Provider store={store}>
      <Desk />
    </Provider>,
  );
});
afterEach(() => {
  cleanup();
  store.dispatch(closed());
  store.dispatch(changed({ selection: null, chosenClip: null, copied: null, snapping: true }));
});

test('a selection is cut at a change of sign, its end where the wave goes on, and given back', async () => {
  select(100_030, 150_060);
  fireEvent.click(screen.getByRole('button', { name: /^Cut/ }));
  await waitFor(() => expect(clips()).toHaveLength(2));
  expect(clips().map(({ source }) => source)).toEqual([
    { startFrame: 0, endFrame: 100_000 },
    { startFrame: 150_000, endFrame: LENGTH },
  ]);
  expect(store.getState().listening.selection).toBeNull();
  fireEvent.click(screen.getByRole('button', { name: /^Give back 1\.04 s/ }));
  expect(clips()).toHaveLength(1);
});

test('without snapping an edge stays where it was put', async () => {
  act(() => void store.dispatch(changed({ snapping: false })));
  mockPlayer.frame = 77_777;
  key('t');
  await waitFor(() => expect(clips()).toHaveLength(2));
  expect(clips()[1]!.startFrame).toBe(77_777);
});

test('silence, room tone from the best passage of the survey, and 3 dB less, by key', async () => {
  for (const [letter, check] of [
    ['m', () => expect(clips()[1]!.sound.kind).toBe('silence')],
    [
      'r',
      () =>
        expect([clips()[1]!.sound, track().roomTone]).toEqual([
          { kind: 'room-tone', gainDb: 0 },
          { startFrame: 8 * RATE, endFrame: 9 * RATE },
        ]),
    ],
    ['d', () => expect(clips()[1]!.gainDb).toBe(-3)],
  ] as const) {
    select(100_000, 150_000);
    key(letter);
    await waitFor(check);
    act(() => void store.dispatch(undone()));
    expect(clips()).toHaveLength(1);
  }
});

test('copied is what was selected, wherever it has gone since; it comes in at the playhead', async () => {
  select(0, 48_000);
  key('c', { ctrlKey: true });
  act(
    () => void store.dispatch(edited({ type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: 0, endFrame: 48_000 }], close: true })),
  );
  mockPlayer.frame = 200_000;
  key('v', { ctrlKey: true });
  await waitFor(() => expect(clips()).toHaveLength(3));
  expect(clips()[1]).toMatchObject({ startFrame: 200_000, source: { startFrame: 0, endFrame: 48_000 } });
});

test('edges are stepped through and moved; the clip that is worked on shows its gain, fades and curve', async () => {
  act(
    () =>
      void store.dispatch(
        edited({ type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: 100_000, endFrame: 120_000 }], close: true }),
      ),
  );
  key(']');
  expect(mockPlayer.frame).toBe(100_000);
  const sheet = screen.getByRole('region', { name: 'Clip' });
  expect(sheet.textContent).toContain('0:02.08–0:09.58');
  fireEvent.keyDown(document.body, { key: 'ArrowRight', code: 'ArrowRight', altKey: true });
  expect(clips()[1]!.startFrame).toBe(100_480);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Clip gain' }), { key: 'PageDown' });
  expect(clips()[1]!.gainDb).toBe(-5);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Crossfade' }), { key: 'End' });
  expect(clips()[1]!.fadeIn.frames).toBe(240_000);
  fireEvent.click(screen.getByRole('radio', { name: 'straight' }));
  expect(clips()[1]!.fadeIn.curve).toBe('linear');
});

test('by keyboard a clip moves into free room, and its gain line gets points at the playhead', () => {
  act(
    () =>
      void store.dispatch(
        edited({ type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: 100_000, endFrame: 120_000 }], close: false }),
      ),
  );
  key(']');
  fireEvent.keyDown(document.body, { key: 'ArrowLeft', code: 'ArrowLeft', shiftKey: true });
  expect(clips()[1]!.startFrame).toBe(119_520);
  mockPlayer.frame = 200_000;
  const alt = (arrow: string): boolean => fireEvent.keyDown(document.body, { key: arrow, code: arrow, altKey: true });
  const clock = jest.spyOn(performance, 'now').mockReturnValue(1000);
  for (const arrow of ['ArrowDown', 'ArrowDown', 'ArrowUp']) {
    alt(arrow);
    // It plays on meanwhile: the point that was begun with moves.
    mockPlayer.frame += 20_000;
  }
  expect(clips()[1]!.line).toEqual([{ frame: 200_480, gainDb: -1 }]);
  clock.mockReturnValue(3000);
  mockPlayer.frame = 300_000;
  alt('ArrowUp');
  clock.mockRestore();
  expect(clips()[1]!.line).toEqual([
    { frame: 200_480, gainDb: -1 },
    { frame: 300_480, gainDb: 0 },
  ]);
});

test('what cannot be done is said, and nothing is changed', () => {
  key('g');
  expect(clips()).toHaveLength(1);
  select(0, LENGTH);
  fireEvent.click(screen.getByRole('button', { name: /^Cut/ }));
  expect(clips()).toHaveLength(1);
});
