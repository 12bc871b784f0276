import type { Lane } from '@euphonos/engine';
import type { Figures } from '../passage/passage.js';

/** The most that equal loudness raises or lowers a lane. */
const MOST_LANE_GAIN_DB = 24;

export const NO_GAINS: Readonly<Record<Lane, number>> = { source: 0, removed: 0, result: 0 };

/** What each lane is raised by, dB, so that it is as loud as the source. */
export function laneGains(figures: Figures): Readonly<Record<Lane, number>> {
  const goal = figures.source.integratedLufs;
  if (goal === null) return NO_GAINS;
  const gain = (lane: Lane): number => {
    const lufs = figures[lane].integratedLufs;
    return lufs === null ? 0 : Math.max(-MOST_LANE_GAIN_DB, Math.min(MOST_LANE_GAIN_DB, goal - lufs));
  };
  return { source: 0, removed: gain('removed'), result: gain('result') };
}
