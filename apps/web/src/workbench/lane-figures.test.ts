import type { TrackSound } from '../audio/arranged.js';
import type { Figures } from '../passage/passage.js';
import { LaneFigures } from './lane-figures.js';

const lane = (integratedLufs: number | null) => ({ integratedLufs, noiseFloorDbfs: -50, rmsDbfs: -25 });
const figuresOf = (source: number, removed: number | null, result: number) =>
  ({ source: lane(source), removed: lane(removed), result: lane(result) }) as unknown as Figures;
const of = {
  chain: { treatments: [] },
  sound: { clips: [] } as unknown as TrackSound,
  profile: null,
  span: { startFrame: 0, endFrame: 48_000 },
};

test('lanes are as loud as the source only where that is wished, and where it is known', () => {
  const figures = new LaneFigures();
  figures.equalLoudness = true;
  expect(figures.gainsDb).toEqual({ source: 0, removed: 0, result: 0 });
  figures.measured(of, figuresOf(-20, null, -23));
  expect(figures.gainsDb).toEqual({ source: 0, removed: 0, result: 3 });
  figures.equalLoudness = false;
  expect(figures.gainsDb.result).toBe(0);
});

test('what was measured is known again only for the same sound through the same chain in the same span', () => {
  const figures = new LaneFigures();
  const first = figuresOf(-20, -35, -21);
  figures.measured(of, first);
  figures.measured({ ...of, chain: { treatments: [] } }, figuresOf(-20, -35, -30));
  expect(figures.known({ ...of, span: { ...of.span } })).toBe(first);
  expect(figures.known({ ...of, span: { startFrame: 0, endFrame: 24_000 } })).toBeNull();
  expect(figures.known({ ...of, sound: { ...of.sound } })).toBeNull();
  expect(figures.known({ ...of, chain: { treatments: [] } })).toBeNull();
});
