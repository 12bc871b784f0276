import { joined, kernels, mixed, noise, RATE_HZ, silence, voice } from '../testing/signals.js';
import { Surveyor } from './surveyor.js';

/** Talk, a pause, talk, a pause: under it noise whose level is given for each part. */
function passagesOf(pauses: readonly { readonly seconds: number; readonly levels: readonly [number, number] }[]) {
  const parts = pauses.flatMap(({ seconds, levels: [from, to] }, i) => [
    mixed(voice(3, 120, 30 + i), noise(-60, 3, 50 + i)),
    noise(0, seconds, 70 + i).map((x, n) => x * 10 ** ((from + ((to - from) * n) / (seconds * RATE_HZ)) / 20)),
  ]);
  const sound = joined(...parts, mixed(voice(3, 120, 40), noise(-60, 3, 60)), silence(0));
  const surveyor = new Surveyor(kernels, RATE_HZ, 1);
  surveyor.process([sound], sound.length);
  const found = surveyor.finish().findings.find(({ kind }) => kind === 'noise-passages');
  return found?.kind === 'noise-passages' ? found.spans : [];
}
const inPause = (at: number, index: number, seconds: readonly number[]): boolean => {
  const start = seconds.slice(0, index).reduce((sum, s) => sum + s + 3, 3);
  return at >= start - 0.2 && at <= start + seconds[index]!;
};

test('the longest comes first; beyond two seconds the steadier and quieter one', () => {
  const seconds = [0.9, 2.4, 2.6];
  const found = passagesOf([
    { seconds: 0.9, levels: [-60, -60] },
    { seconds: 2.4, levels: [-60, -60] },
    { seconds: 2.6, levels: [-58, -55.5] },
  ]);
  expect(found.length).toBeGreaterThanOrEqual(3);
  expect(inPause(found[0]!.startSeconds + 0.3, 1, seconds)).toBe(true);
  expect(found[0]!.dbfs).toBeCloseTo(-60, 0);
  expect(Math.abs(found[0]!.driftDb)).toBeLessThan(0.5);
  const drifting = found.find(({ startSeconds }) => inPause(startSeconds + 0.3, 2, seconds))!;
  expect(drifting.driftDb).toBeGreaterThan(1);
  expect(drifting.withinDb).toBeGreaterThan(found[0]!.withinDb);
});
