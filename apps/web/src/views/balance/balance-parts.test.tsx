/** @jest-environment jsdom */
import { createDocument, type BalanceLine, type Level } from '@euphonos/engine';
import type { SessionView } from '@euphonos/contracts';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { opened, closed } from '../../store/session-slice.js';
import { store } from '../../store/store.js';
import { LevelsTable } from './levels-table.js';
import { MatchBar } from './match-bar.js';
import { placeOf } from './scale.js';

jest.mock('../../workbench/workbench-context.js', () => ({ useWorkbench: () => ({ sampleRateHz: 48_000 }) }));

const document1 = createDocument([
  { id: 'r1', name: 'Anna', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 },
  { id: 'r2', name: 'Bed', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 },
]);
const level = (lufs: number, truePeakDbtp = lufs + 12): Level => ({
  lufs,
  rangeLu: 5,
  truePeakDbtp,
  samplePeakDbfs: truePeakDbtp,
  floorDbfs: -60,
});
const line = (trackId: string, before: number, after: number, gainDb = 0): BalanceLine => ({
  trackId,
  clipId: null,
  gainDb,
  before: level(before),
  after: level(after),
});

beforeEach(() => {
  const recording = {
    id: 'r1',
    fileName: 'a.wav',
    sizeBytes: 1,
    facts: null,
    job: { id: 'j', kind: 'read', state: 'done', progress: 1, problem: null },
  };
  store.dispatch(opened({ id: 's', name: 'S', document: document1, revision: 1, recordings: [], recording } as unknown as SessionView));
});
afterEach(() => void store.dispatch(closed()));
const gains = () => store.getState().session!.history!.present.tracks.map(({ gainDb }) => gainDb);

const bar = (more: object = {}) =>
  render(
    <Provider store={store}>
      <MatchBar
        lines={[
          { ...line('track-1', -26, -24), bed: false },
          { ...line('track-2', -20, -20), bed: true },
        ]}
        chosen={0}
        waiting={0}
        targetLufs={-16}
        ceilingDbtp={-1}
        underLu={15}
        onUnder={() => undefined}
        reference={{ name: 'Anna', lufs: -24 }}
        {...more}
      />
    </Provider>,
  );

test('all come to the target by a key, a bed so far under it, in one step', () => {
  bar();
  act(() => void fireEvent.keyDown(document.body, { key: 'm', code: 'KeyM' }));
  expect(gains()).toEqual([8, -11]);
  expect(store.getState().session!.history!.past.map(({ label }) => label)).toEqual(['Match 2 levels: −16.0 LUFS']);
});

test('to the track at work, as loud as the ceiling lets them, and to peaks', () => {
  bar();
  const match = (wish: string): number[] => {
    fireEvent.click(screen.getByRole('radio', { name: wish }));
    fireEvent.click(screen.getByRole('button', { name: /^Match all/ }));
    return gains();
  };
  expect(match('as Anna')).toEqual([0, -19]);
  // Peaks stand 12 dB over the loudness: the ceiling is met at -13 LUFS; the bed stays 15 under it.
  expect(match('loudest')).toEqual([11, -8]);
  // The highest samples are at -12 and -8 dBFS; each by itself comes to -3.
  expect(match('peaks')).toEqual([9, 5]);
});

test('nothing is matched while something is still measured', () => {
  bar({ waiting: 2 });
  fireEvent.click(screen.getByRole('button', { name: /^Match all/ }));
  expect(gains()).toEqual([0, 0]);
});

test('the table tells where each stands, what is off its band, and what is over the ceiling', () => {
  const [anna, bed] = document1.tracks as [(typeof document1.tracks)[0], (typeof document1.tracks)[0]];
  const onChoose = jest.fn();
  render(
    <LevelsTable
      tracks={[
        { track: anna, line: { ...line('track-1', -26, -15.5), after: level(-15.5, 0.4) }, clips: [], stale: false },
        { track: { ...bed, role: 'bed' }, line: line('track-2', -20, -20), clips: [], stale: true },
      ]}
      chosen={new Set(['track-1/'])}
      onChoose={onChoose}
      target={{ lufs: -16, toleranceLu: 1 }}
      underLu={15}
      ceilingDbtp={-1}
    />,
  );
  const cells = (name: string): string[] =>
    [...document.querySelectorAll(`[data-level="${name}"] td`)].slice(1).map((cell) => cell.textContent!);
  expect(cells('Anna')).toEqual(['−26.0', '−15.5', 'there', '5.0', '0.4', '−60']);
  expect(cells('Bed')).toEqual(['−20.0', '−20.0', '+10.0', '5.0', '−8.0', '−60']);
  expect(document.querySelector('[data-level=Anna] .text-removed')!.textContent).toBe('0.4');
  expect(screen.getByRole('img', { name: 'Anna: −26.0 to −15.5 LUFS' })).toBeDefined();
  fireEvent.click(screen.getByRole('checkbox', { name: 'Choose Bed' }));
  expect(onChoose).toHaveBeenCalledWith('track-2/');
});

test('the ruler goes from -48 to -6 LUFS, and holds what is beyond', () => {
  expect([-48, -27, -6, 0, -90].map(placeOf)).toEqual([0, 50, 100, 100, 0]);
});
