/** @jest-environment jsdom */
import { createDocument } from '@euphonos/engine';
import { parseChain, type TreatmentSettings } from '@euphonos/dsp';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { changed } from '../../../../store/listening-slice.js';
import { store } from '../../../../store/store.js';
import { Places } from '../../../../workbench/places.js';
import { DynamicsPanel } from './dynamics-panel.js';
import { ClicksPanel } from './clicks-panel.js';
import { NoisePanel } from './noise-panel.js';
import { GatePanel } from './gate-panel.js';
import { HumPanel } from './hum-panel.js';
import { SpotsPanel } from './spots-panel.js';
import { TonePanel } from './tone-panel.js';

const events = [{ kind: 'clicks', channel: 0, startFrame: 96_000, endFrame: 96_048, amountDb: -18 }];
/** 1 Hz a bin; lines at 50, 100 and 150 Hz stand out of a floor. */
const levels = Float32Array.from({ length: 24_001 }, (_, hz) => ([50, 100, 150].includes(hz) ? -50 : -90));
const spectra = { binHz: 1, source: levels, result: levels, gaps: { binHz: 1, source: levels, result: levels } };
const mockEffect = {
  id: 'x',
  gapsDb: -6,
  wordsDb: 0,
  gapsDbfs: -60,
  wordsDbfs: -20,
  speechLossDb: -60,
  touched: [] as { startFrame: number; endFrame: number; loweredDb: number }[],
  events,
};
const mockPrice = {
  treatmentId: 'x',
  losses: [] as { startFrame: number; endFrame: number; lossDb: number }[],
  knee: 5,
  suggested: 10,
  points: Array.from({ length: 41 }, (_, r) => ({ reductionDb: r, noiseTakenDb: r, speechLossDb: -60 + r })),
};
const mockPlaces = new Places(
  createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 }).tracks[0]!.clips,
  48_000,
);
jest.mock('../../../../workbench/workbench-context.js', () => ({
  useWorkbench: () => ({
    places: mockPlaces,
    sampleRateHz: 48_000,
    lengthFrames: 480_000,
    figuresOf: 'overall',
    figures: { source: { integratedLufs: -23.3 } },
    subscribe: () => () => undefined,
    view: { show: jest.fn() },
    player: { seek: jest.fn() },
  }),
  useEffectOf: () => mockEffect,
  useSpectra: () => spectra,
  usePrice: () => mockPrice,
}));

const track = {
  ...createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 }).tracks[0]!,
  noise: { kind: 'passages', spans: [{ startFrame: 0, endFrame: 48_000 }] },
} as const;
const settings = (treatment: object): TreatmentSettings => parseChain({ treatments: [{ id: 'x', ...treatment }] }).treatments[0]!;
type Panel = typeof HumPanel;
function show(Shown: Panel, treatment: object) {
  const set = jest.fn();
  render(
    <Provider store={store}>
      <Shown track={track} settings={settings(treatment)} set={set} />
    </Provider>,
  );
  return set;
}
const press = (name: string | RegExp, role = 'button'): boolean => fireEvent.click(screen.getAllByRole(role, { name })[0]!);

test('harmonics are switches with their level; the last one cannot be switched off', () => {
  const set = show(HumPanel, { kind: 'hum-notch', harmonicsOn: [1, 3] });
  expect(screen.getByRole('switch', { name: 'Harmonic 1, 50 Hz' }).textContent).toContain('−50 → −50 dB');
  press('Harmonic 2, 100 Hz', 'switch');
  expect(set).toHaveBeenLastCalledWith('harmonicsOn', [1, 2, 3]);
  press('Harmonic 3, 150 Hz', 'switch');
  expect(set).toHaveBeenLastCalledWith('harmonicsOn', [1]);
  set.mockClear();
  show(HumPanel, { kind: 'hum-lines', harmonicsOn: [1] });
  fireEvent.click(screen.getAllByRole('switch', { name: 'Harmonic 1, 50 Hz' })[1]!);
  expect(set).not.toHaveBeenCalled();
});

test('the fewest harmonics are those that stand out; one tone is the base alone', () => {
  const set = show(HumPanel, { kind: 'hum-notch', harmonics: 8 });
  press('Fewest');
  expect(set).toHaveBeenLastCalledWith('harmonicsOn', [1, 2, 3]);
  press('One tone');
  expect(set).toHaveBeenLastCalledWith('harmonicsOn', [1]);
});

test('bands of tone are added with sense, changed by their rulers, and removed', () => {
  const set = show(TonePanel, { kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 400, gainDb: -4, q: 1 }] });
  press('Low shelf');
  expect(set).toHaveBeenLastCalledWith('bands', [
    expect.objectContaining({ frequencyHz: 400 }),
    { shape: 'low-shelf', frequencyHz: 150, gainDb: -3, q: 0.7 },
  ]);
});

test('levels that are moved: how many words, by how much, what it costs; what was measured is taken by a press', () => {
  const dynamics = { mostDownDb: -6.5, mostUpDb: 0, typicalDb: -1.4, share: 0.68, crestBeforeDb: 19, crestAfterDb: 13.4 };
  const effect = mockEffect as unknown as Record<string, unknown>;
  effect['dynamics'] = dynamics;
  effect['wordsDb'] = -1.7;
  const set = show(DynamicsPanel, { kind: 'compressor' });
  expect(document.querySelector('[data-dynamics]')!.textContent).toContain('68 % of the words, typically by −1.4 dB, at most −6.5 dB');
  press(/^Threshold at −14.0/);
  expect(set).toHaveBeenLastCalledWith('thresholdDb', -14);
  press(/^Make-up 1.7/);
  expect(set).toHaveBeenLastCalledWith('makeUpDb', 1.7);
  const level = show(DynamicsPanel, { kind: 'levelling' });
  press(/^Speech at −23.5/);
  expect(level).toHaveBeenLastCalledWith('targetLufs', -23.5);
  show(DynamicsPanel, { kind: 'limiter' });
  expect(screen.getByText(/^1 place, 0.00 s in all/)).toBeDefined();
  effect['wordsDb'] = 0;
});

test('the trade-off tells the present depth in words; the suggestion is taken by a press or by a key', () => {
  const set = show(NoisePanel, { kind: 'noise-reduction', reductionDb: 12.5 });
  expect(screen.getByRole('img', { name: 'Trade-off: 12.5 dB of noise taken, voice lost −48 dB' })).toBeDefined();
  press(/^10 dB/);
  expect(set).toHaveBeenLastCalledWith('reductionDb', 10);
  set.mockClear();
  fireEvent.keyDown(document.body, { key: 'k', code: 'KeyK' });
  expect(set).toHaveBeenLastCalledWith('reductionDb', 10);
});

test('places where words are heard in what is removed are gone through one by one', () => {
  mockPrice.losses = [
    { startFrame: 96_000, endFrame: 106_000, lossDb: -8 },
    { startFrame: 196_000, endFrame: 206_000, lossDb: -5 },
  ];
  show(NoisePanel, { kind: 'noise-reduction' });
  for (const loss of [...mockPrice.losses, mockPrice.losses[0]!]) {
    press('Show the next');
    const { startFrame, endFrame } = store.getState().listening.selection!;
    expect(startFrame).toBeLessThan(loss.startFrame);
    expect(endFrame).toBeGreaterThan(loss.endFrame);
    expect(endFrame - startFrame).toBeLessThan(40_000);
  }
  mockPrice.losses = [];
});

test('a box on the spectrogram offers a second pass there; one of more than five seconds is refused', () => {
  store.dispatch(changed({ selection: { startFrame: 48_000, endFrame: 96_000 }, band: { lowHz: 400, highHz: 900 } }));
  show(NoisePanel, { kind: 'noise-reduction' });
  press('Second pass here');
  expect(store.getState().listening).toMatchObject({ selection: null, band: null });
  act(() => void store.dispatch(changed({ selection: { startFrame: 0, endFrame: 6 * 48_000 }, band: { lowHz: 400, highHz: 900 } })));
  press('Second pass here');
  expect(store.getState().listening.band).not.toBeNull();
  act(() => void store.dispatch(changed({ selection: null, band: null })));
});

test('a click can be left as it is, and mended again', () => {
  const set = show(ClicksPanel, { kind: 'clicks', exceptions: [{ atSeconds: 5 }] });
  press('leave it');
  expect(set).toHaveBeenLastCalledWith('exceptions', [{ atSeconds: 5 }, { atSeconds: 2.001 }]);
  press('mend it again');
  expect(set).toHaveBeenLastCalledWith('exceptions', []);
});

test('a box becomes a spot, lowered or replaced; one that is too long is refused', () => {
  store.dispatch(changed({ selection: { startFrame: 48_000, endFrame: 72_000 }, band: { lowHz: 900.4, highHz: 1500.2 } }));
  const set = show(SpotsPanel, { kind: 'spots' });
  press('Replace it');
  expect(set).toHaveBeenLastCalledWith('spots', [
    { way: 'replace', startSeconds: 1, endSeconds: 1.5, lowHz: 900, highHz: 1500, reductionDb: 18 },
  ]);
  expect(store.getState().listening).toMatchObject({ selection: null, band: null });
  set.mockClear();
  fireEvent.click(screen.getByRole('button', { name: 'Lower it' }));
  expect(set).not.toHaveBeenCalled();
});

test('a spot longer than five seconds is not made', () => {
  store.dispatch(changed({ selection: { startFrame: 0, endFrame: 6 * 48_000 }, band: null }));
  const set = show(SpotsPanel, { kind: 'spots' });
  press('Lower it');
  expect(set).not.toHaveBeenCalled();
  expect(store.getState().listening.selection).not.toBeNull();
});

test('the gate tells its gaps before and after, and takes thresholds in an order in which neither moves the other', () => {
  const set = show(GatePanel, { kind: 'gate', openDb: -30, closeDb: -35 });
  expect(screen.getByText('−60.0 dBFS')).toBeDefined();
  expect(screen.getByText('−66.0 dBFS')).toBeDefined();
  press('Close at −54.0, open at −49.5');
  // Down: closing first, so that opening does not drag it along.
  expect(set.mock.calls).toEqual([
    ['closeDb', -54],
    ['openDb', -49.5],
  ]);
  const up = show(GatePanel, { kind: 'gate', openDb: -70, closeDb: -75 });
  fireEvent.click(screen.getAllByRole('button', { name: 'Close at −54.0, open at −49.5' })[1]!);
  expect(up.mock.calls).toEqual([
    ['openDb', -49.5],
    ['closeDb', -54],
  ]);
});

test('an expander has one threshold; words that it cuts into are gone through', () => {
  mockEffect.touched = [{ startFrame: 96_000, endFrame: 100_000, loweredDb: 7.4 }];
  const set = show(GatePanel, { kind: 'expander' });
  press('Begin at −49.5');
  expect(set.mock.calls).toEqual([['thresholdDb', -49.5]]);
  expect(screen.getByText(/One word loses a beginning or an end/)).toBeDefined();
  press('Show it');
  expect(store.getState().listening.selection!.startFrame).toBeLessThanOrEqual(96_000);
  expect(screen.getByText(/by 7 dB here/)).toBeDefined();
  mockEffect.touched = [];
});
