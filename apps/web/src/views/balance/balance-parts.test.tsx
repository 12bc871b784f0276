/** @jest-environment jsdom */
import { createDocument, type BalanceLine, type Level } from '@euphonos/engine';
import type { SessionView } from '@euphonos/contracts';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { opened, closed } from '../../store/session-slice.js';
import { store } from '../../store/store.js';
import { DcOut } from './dc-out.js';
import { LevelsTable } from './levels-table.js';
import { MatchBar } from './match-bar.js';
import { placeOf } from './scale.js';
import { nextSorting, sorted, tableLines, type Sorting } from './table-lines.js';

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
  dcOffset: 0,
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
      talk={new Map([['track-1', [{ startSeconds: 1, endSeconds: 4, lufs: -14 }]]])}
      chosen={new Set(['track-1/'])}
      onChoose={onChoose}
      target={{ lufs: -16, toleranceLu: 1 }}
      underLu={15}
      ceilingDbtp={-1}
    />,
  );
  const cells = (name: string): string[] =>
    [...document.querySelectorAll(`[data-level="${name}"] td`)].slice(1).map((cell) => cell.textContent!);
  expect(cells('Anna')).toEqual(['−26.0', '−15.5', 'there', '–', '−14.0', '5.0', '0.4', '−60']);
  expect(cells('Bed')).toEqual(['−20.0', '−20.0', '+10.0', '–', '–', '5.0', '−8.0', '−60']);
  expect(document.querySelector('[data-level=Anna] .text-removed')!.textContent).toBe('0.4');
  expect(screen.getByRole('img', { name: 'Anna: −26.0 to −15.5 LUFS' })).toBeDefined();
  fireEvent.click(screen.getByRole('checkbox', { name: 'Choose Bed' }));
  expect(onChoose).toHaveBeenCalledWith('track-2/');
});

test('a peak of one’s own is typed', () => {
  bar();
  fireEvent.click(screen.getByRole('radio', { name: 'peaks' }));
  const box = screen.getByLabelText('Peaks at, typed');
  fireEvent.focus(box);
  fireEvent.change(box, { target: { value: '-4.5' } });
  fireEvent.blur(box);
  fireEvent.click(screen.getByRole('button', { name: /^Match all/ }));
  // The highest samples are at -12 and -8 dBFS.
  expect(gains()).toEqual([7.5, 3.5]);
});

test('a constant offset is told, and taken out of its track in one step', () => {
  const offset = (trackId: string, dcOffset: number) => ({ ...line(trackId, -20, -20), after: { ...level(-20), dcOffset } });
  const view = (lines: BalanceLine[]) => (
    <Provider store={store}>
      <DcOut document={store.getState().session!.history!.present} lines={lines} />
    </Provider>
  );
  const { rerender } = render(view([offset('track-1', 0.001), offset('track-2', 0)]));
  expect(screen.queryByRole('button')).toBeNull();
  rerender(view([offset('track-1', -0.02), offset('track-2', 0)]));
  fireEvent.click(screen.getByRole('button', { name: /^DC out of Anna/ }));
  const { present, past } = store.getState().session!.history!;
  expect(present.tracks[0]!.chain.treatments.find(({ kind }) => kind === 'channels')).toMatchObject({ offset: 'out' });
  expect(present.tracks[1]!.chain.treatments.some(({ kind }) => kind === 'channels')).toBe(false);
  expect(past.map(({ label }) => label)).toEqual(['Take out the DC offset of Anna']);
});

test('lines sort by a column, down, up, and as they were; what has no value comes last', () => {
  const [a, b, c] = [line('a', -20, -16), line('b', -30, -18), line('c', -25, -17)];
  const lines = [a, b, { ...c, after: { ...c.after, lufs: null } }].map((one, i) => ({
    id: `${one.trackId}/`,
    line: one,
    startFrame: i,
    talkLufs: null,
    offLu: null,
    besideLu: null,
  }));
  const order = (sorting: Sorting | null) =>
    sorted(lines, sorting)
      .map(({ id }) => id[0])
      .join('');
  const once = nextSorting(null, 'before');
  expect([once, nextSorting(once, 'before'), nextSorting(nextSorting(once, 'before'), 'before')].map(order)).toEqual(['acb', 'bca', 'abc']);
  expect([order({ column: 'after', way: 'down' }), order({ column: 'after', way: 'up' })]).toEqual(['abc', 'bac']);
});

test('each is compared with the one before it in time: people with people, clips with clips', () => {
  const track = (id: string, role: 'speech' | 'bed', starts: readonly number[]) => ({
    ...document1.tracks[0]!,
    id,
    role,
    clips: starts.map((startFrame, i) => ({ ...document1.tracks[0]!.clips[0]!, id: `c${i}`, startFrame })),
  });
  const of = (id: string, role: 'speech' | 'bed', starts: readonly number[], lufs: number, ofClips: readonly number[]) => ({
    track: track(id, role, starts),
    line: line(id, lufs, lufs),
    clips: ofClips.map((one, i) => ({ ...line(id, one, one), clipId: `c${i}` })),
    stale: false,
  });
  const lines = tableLines(
    [of('a', 'speech', [0, 2000], -20, [-20, -19]), of('b', 'speech', [1000], -17, []), of('m', 'bed', [0], -40, [])],
    {
      bandOf: () => null,
      talkOf: () => null,
    },
  );
  const besides = lines.flatMap(({ line: one, clips }) => [one, ...clips]).map(({ id, besideLu }) => [id, besideLu]);
  expect(Object.fromEntries(besides)).toEqual({ 'a/': null, 'a/c0': null, 'a/c1': -2, 'b/': 3, 'm/': null });
});

test('the ruler goes from -48 to -6 LUFS, and holds what is beyond', () => {
  expect([-48, -27, -6, 0, -90].map(placeOf)).toEqual([0, 50, 100, 100, 0]);
});
