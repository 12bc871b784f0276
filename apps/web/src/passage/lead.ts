import { asSpots, type ChainSpec, type ListRow } from '@euphonos/dsp';

/** The grid of the monitor, on which every run of a chain starts. */
const GRID_FRAMES = 2048;
/** A chain runs this long before a piece that does not follow the one before. */
const USUAL_FRAMES = 24 * GRID_FRAMES;
/** A spot that looks at itself as a whole is heard from its beginning, and a little before. */
const BEFORE_SPOT_SECONDS = 0.3;

/** How long a chain runs before a piece, so that it is what a run from the first frame makes of it. */
export function leadFrames({ treatments }: ChainSpec, sampleRateHz: number): number {
  const longest = treatments
    .filter(({ kind, bypassed }) => kind === 'spots' && !bypassed)
    .flatMap((settings) => asSpots(settings['spots'] as readonly ListRow[]))
    .reduce(
      (most, { way, startSeconds, endSeconds }) =>
        way === 'lower' ? most : Math.max(most, endSeconds - startSeconds + BEFORE_SPOT_SECONDS),
      0,
    );
  return USUAL_FRAMES + GRID_FRAMES * Math.ceil((longest * sampleRateHz) / GRID_FRAMES);
}
