/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { act, cleanup, createEvent, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, closed, edited, opened } from '../../../store/session-slice.js';
import { store } from '../../../store/store.js';
import { ListeningWays } from '../../listening-bar/ways.js';
import { MarksButton } from '../marks/marks-button.js';
import { Lanes } from './lanes.js';
import { between } from './use-talk.js';

const RATE = 48_000;
const facts = (id: string) => ({ id, name: id, lengthFrames: 480_000, sampleRateHz: RATE, channels: 1 });
const document3 = createDocument(['Ada', 'Ben', 'Cleo'].map(facts), 'tracks', [0, 240_000, 960_000]);
const view = {
  id: 's',
  name: 'Session',
  document: document3,
  revision: 1,
  recordings: [],
  gathering: false,
  lastDelivery: null,
} as unknown as SessionView;
const tracks = () => store.getState().session!.history!.present.tracks;
const active = () => activeTrack(store.getState().session)!;
const listening = () => store.getState().listening;

const mockPlayer = {
  frame: 100_000,
  playing: false,
  awaited: 0,
  seek: jest.fn((frame: number) => void (mockPlayer.frame = frame)),
  play: jest.fn(async () => undefined),
  stop: jest.fn(),
  subscribe: () => () => undefined,
};
const mockView = {
  startFrame: 0,
  endFrame: 1_440_000,
  spanFrames: 1_440_000,
  framesPerPx: 1800,
  widthPx: 800,
  scroll: jest.fn(),
  show: jest.fn(),
  pxAt: (frame: number) => frame / 1800,
  subscribe: () => () => undefined,
};
jest.mock('../../../workbench/workbench-context.js', () => ({
  useWorkbench: () => ({ sampleRateHz: RATE, lengthFrames: 480_000, player: mockPlayer, view: mockView }),
}));
jest.mock('../../../workbench/use-frame-loop.js', () => ({ useFrameLoop: () => undefined }));
jest.mock('../../survey/use-survey.js', () => ({ useFindingsOf: () => [] }));
jest.mock('./use-lane-peaks.js', () => ({ useLanePeaks: () => [] }));
jest.mock('../../../drawing/canvas.js', () => ({ Canvas: ({ label }: { label: string }) => <canvas aria-label={label} /> }));

const key = (letter: string, more: object = {}): boolean => fireEvent.keyDown(document.body, { key: letter, code: letter, ...more });
const press = (name: string | RegExp): boolean => fireEvent.click(screen.getByRole('button', { name }));

beforeEach(() => {
  globalThis.fetch = jest.fn(async () => ({ ok: true, status: 200, json: async () => ({ revision: 2 }) })) as unknown as typeof fetch;
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
  Element.prototype.scrollIntoView = () => undefined;
  mockPlayer.frame = 100_000;
  act(() => void store.dispatch(opened(view)));
  render(
    <Provider store={store}>
      <MarksButton />
      <Lanes />
      <ListeningWays />
    </Provider>,
  );
});
afterEach(() => {
  cleanup();
  act(() => {
    store.dispatch(closed());
    store.dispatch(changed({ together: false, solo: [], selection: null, speed: 1, looping: false }));
  });
});

describe('lanes', () => {
  test('from lane to lane by keys and by hand; what was selected on the one before is let go', () => {
    act(() => void store.dispatch(changed({ selection: { startFrame: 0, endFrame: 9 } })));
    key('ArrowDown');
    expect([active().name, listening().selection]).toEqual(['Ben', null]);
    key('ArrowDown');
    key('ArrowDown');
    expect(active().name).toBe('Cleo');
    key('ArrowUp');
    press('Ada');
    expect(active().name).toBe('Ada');
  });

  test('level, place and mute are edits; solo is for the ear alone, and lasts as long as the key is held', () => {
    fireEvent.change(screen.getByRole('spinbutton', { name: 'Level of Ben, dB' }), { target: { value: '-4.5' } });
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Place of Cleo' }), { key: 'ArrowLeft' });
    press('Mute Ben');
    expect(tracks().map(({ gainDb, pan, muted }) => [gainDb, pan, muted])).toEqual([
      [0, 0, false],
      [-4.5, 0, true],
      [0, -0.05, false],
    ]);
    key('i');
    expect(tracks()[0]!.muted).toBe(true);
    const keyAt = (type: 'keyDown' | 'keyUp', timeStamp: number): void => {
      const event = createEvent[type](document.body, { key: 'u', code: 'u' });
      fireEvent(document.body, Object.defineProperty(event, 'timeStamp', { value: timeStamp }));
    };
    keyAt('keyDown', 0);
    expect(listening().solo).toEqual(['track-1']);
    keyAt('keyUp', 2000);
    expect(listening().solo).toEqual([]);
    keyAt('keyDown', 3000);
    keyAt('keyUp', 3100);
    expect(listening().solo).toEqual(['track-1']);
    press(/one track solo/);
    expect(listening().solo).toEqual([]);
  });

  test('a clip goes to the lane below where there is room, and is told where there is none', () => {
    key('ArrowDown', { shiftKey: true });
    // Ben sounds from 5 s on, Ada up to 10 s.
    expect(tracks()).toHaveLength(3);
    act(() => void store.dispatch(edited({ type: 'split-clips', trackId: 'track-1', frames: [200_000] })));
    key('ArrowDown', { shiftKey: true });
    expect(tracks().map(({ clips }) => clips.length)).toEqual([1, 2, 1]);
    expect(active().name).toBe('Ben');
  });

  test('a track is named, and is a bed, which nobody profiles with the others', () => {
    key('F2');
    fireEvent.keyDown(screen.getByRole('textbox', { name: 'Name of Ada' }), { key: 'Escape' });
    fireEvent.doubleClick(screen.getByRole('button', { name: 'Cleo' }));
    const field = screen.getByRole('textbox', { name: 'Name of Cleo' });
    fireEvent.change(field, { target: { value: 'Harp' } });
    fireEvent.blur(field);
    press('Harp is speech');
    press('Hold the noise profile of Ben');
    expect(tracks().map(({ name, role, noiseHeld }) => [name, role, noiseHeld])).toEqual([
      ['Ada', 'speech', false],
      ['Ben', 'speech', true],
      ['Harp', 'bed', false],
    ]);
  });

  test('a track is moved by a millisecond, and to the sample', () => {
    key('ArrowDown');
    key('ArrowRight', { ctrlKey: true });
    key('ArrowRight', { ctrlKey: true, shiftKey: true });
    expect(tracks()[1]!.clips[0]!.startFrame).toBe(240_049);
    key('ArrowUp');
    key('ArrowLeft', { ctrlKey: true });
    expect(tracks()[0]!.clips[0]!.startFrame).toBe(0);
  });

  test('all together is a key away', () => {
    key('y');
    expect(listening().together).toBe(true);
    expect(screen.getByRole('status').textContent).toContain('prepared ahead');
  });
});

describe('marks and ways to listen', () => {
  test('a place and a span get names; keys go from one to the next, a span repeats', () => {
    key('8');
    key('Escape');
    mockPlayer.frame = 0;
    act(() => void store.dispatch(changed({ selection: { startFrame: 200_000, endFrame: 300_000 } })));
    fireEvent.click(screen.getByRole('button', { name: /mark/ }));
    fireEvent.click(screen.getAllByRole('button', { name: /Mark here/ })[0]!);
    const { marks } = store.getState().session!.history!.present;
    expect(marks.map(({ name, startFrame, endFrame }) => [name, startFrame, endFrame])).toEqual([
      ['Mark 1', 100_000, null],
      ['Span 2', 200_000, 300_000],
    ]);
    const name = screen.getByDisplayValue('Mark 1');
    fireEvent.change(name, { target: { value: 'breath' } });
    fireEvent.blur(name);
    press('Repeat Span 2');
    expect(active().loop).toEqual({ startFrame: 200_000, endFrame: 300_000 });
    press('Remove breath');
    expect(store.getState().session!.history!.present.marks).toHaveLength(1);
  });

  test('from before the playhead, over the nearest edge, slower and faster', async () => {
    await act(async () => void key(' ', { code: 'Space', shiftKey: true }));
    expect(mockPlayer.seek).toHaveBeenLastCalledWith(4000);
    mockPlayer.frame = 470_000;
    await act(async () => void key('o'));
    expect(mockPlayer.seek).toHaveBeenLastCalledWith(480_000 - 2 * RATE);
    key('>', { shiftKey: true });
    key('>', { shiftKey: true });
    expect(listening().speed).toBe(1.5);
    for (let i = 0; i < 9; i++) key('<', { shiftKey: true });
    expect(listening().speed).toBe(0.5);
  });
});

test('talk is what pauses leave', () => {
  const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });
  expect(between([span(0, 10), span(30, 40)], 0, 100)).toEqual([span(10, 30), span(40, 100)]);
  expect(between([], 5, 9)).toEqual([span(5, 9)]);
});
