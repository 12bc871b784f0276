import { playedMusic } from '../testing/music.js';
import { kernels, noise, RATE_HZ, silence } from '../testing/signals.js';
import { bedFeatures } from './bed-features.js';
import { findJoins, type BedJoin } from './find-joins.js';
import { planBed, type BedPlan } from './plan-bed.js';

const CROSS = 1920;

/** Pieces one after the other, crossfaded around each joint with what lies beyond the edges, as clips are. */
function laid({ pieces }: BedPlan, bed: Float32Array): { readonly sound: Float32Array; readonly seams: number[] } {
  const length = pieces.reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0);
  const sound = new Float32Array(length);
  const seams: number[] = [];
  let at = 0;
  for (const [i, { startFrame, endFrame }] of pieces.entries()) {
    for (let frame = startFrame; frame < endFrame; frame++) sound[at + frame - startFrame] = bed[frame]!;
    const before = pieces[i - 1];
    if (before) {
      seams.push(at);
      for (let k = -CROSS / 2; k < CROSS / 2; k++) {
        const angle = ((k + CROSS / 2 + 0.5) / CROSS) * (Math.PI / 2);
        sound[at + k] = (bed[before.endFrame + k] ?? 0) * Math.cos(angle) + (bed[startFrame + k] ?? 0) * Math.sin(angle);
      }
    }
    at += endFrame - startFrame;
  }
  return { sound, seams };
}

const join = (early: number, late: number, differenceDb = 1): BedJoin => ({
  earlyFrame: early * RATE_HZ,
  lateFrame: late * RATE_HZ,
  differenceDb,
  correlation: 0.9,
});
const plan = (joins: readonly BedJoin[], bedSeconds: number, wished: number, without?: ReadonlySet<number>): BedPlan =>
  planBed(joins, bedSeconds * RATE_HZ, wished * RATE_HZ, RATE_HZ, without);

describe('what comes to a length', () => {
  test('with its own end where a join brings it there, else faded to the frame', () => {
    const own = plan([join(4, 24)], 30, 50);
    expect(own).toMatchObject({ fadeFrames: 0, frames: 50 * RATE_HZ, joins: [0] });
    const faded = plan([join(4, 24)], 30, 61);
    expect(faded.frames).toBe(61 * RATE_HZ);
    expect(faded.fadeFrames).toBe(4 * RATE_HZ);
    expect(faded.pieces.reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0)).toBe(faded.frames);
  });

  test('not the same loop over and over, and none that was refused', () => {
    const joins = [join(4, 24, 1), join(6, 27, 1.5)];
    expect(new Set(plan(joins, 30, 120).joins)).toEqual(new Set([0, 1]));
    expect(new Set(plan(joins, 30, 120, new Set([0])).joins)).toEqual(new Set([1]));
  });

  test('shorter: from an earlier place on to a later one, its own end kept; without such places it is faded', () => {
    expect(plan([join(8, 18)], 30, 20)).toMatchObject({
      pieces: [
        { startFrame: 0, endFrame: 8 * RATE_HZ },
        { startFrame: 18 * RATE_HZ, endFrame: 30 * RATE_HZ },
      ],
      fadeFrames: 0,
    });
    expect(plan([], 30, 20)).toMatchObject({ fadeFrames: 4 * RATE_HZ, frames: 20 * RATE_HZ });
  });

  test('what is as long as that already stays', () => expect(plan([join(4, 24)], 30, 30.4).pieces).toHaveLength(1));
});

// A seam that is one of its own beats has a spectral flux like theirs.
test.each([
  ['slow', 11, 0.63],
  ['quick', 12, 0.41],
  ['slower still', 13, 0.8],
] as const)('seams of a piece that is %s are no rougher than its own beats', (_, seed, beat) => {
  const bed = playedMusic(45, seed, beat);
  const joins = findJoins(kernels, bed, RATE_HZ);
  const made = planBed(joins, bed.length, 150 * RATE_HZ, RATE_HZ);
  expect(made.joins.length).toBeGreaterThan(3);
  const { sound, seams } = laid(made, bed);
  expect(sound.length).toBe(made.frames);
  const own = bedFeatures(kernels, bed, RATE_HZ);
  const whole = bedFeatures(kernels, sound, RATE_HZ);
  const around = (flux: Float32Array, frame: number): number =>
    Math.max(...[-1, 0, 1, 2].map((k) => flux[Math.round(frame / whole.hopFrames) + k] ?? 0));
  // A joint lies just before a beat. Against the two beats that it is made of, each seam is as likely the roughest of the three as not: in one
  // of three. More by chance: binomial, at most 5 %.
  const rougher = seams.filter((frame, i) => {
    const { earlyFrame, lateFrame } = joins[made.joins[i]!]!;
    return around(whole.flux, frame) > Math.max(around(own.flux, earlyFrame), around(own.flux, lateFrame));
  }).length;
  expect(rougher).toBeLessThanOrEqual(seams.length / 3 + 1.64 * Math.sqrt((seams.length * 2) / 9));
  // On a beat: bars of four beats meet bars of four beats.
  for (const index of made.joins) {
    const beats = (joins[index]!.lateFrame - joins[index]!.earlyFrame) / RATE_HZ / beat;
    expect(Math.abs(beats - Math.round(beats))).toBeLessThan(0.12);
  }
});

test('noise has joins too, at even distances; silence, or next to nothing, has none that is needed', () => {
  expect(findJoins(kernels, noise(-30, 12, 3), RATE_HZ).length).toBeGreaterThan(3);
  expect(findJoins(kernels, silence(2), RATE_HZ)).toEqual([]);
});
