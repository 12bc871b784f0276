import type { Track } from '@euphonos/engine';

/** Speech stands so far above a bed, if nothing else is said. Common practice, no source. */
export const USUAL_UNDER_LU = 15;
/** A bed that is turned down under speech stands so far under it where nobody speaks. Common practice, no source. */
export const ALONE_LU = 6;

/** Whether a bed is turned down while somebody speaks. */
export const givesWay = ({ chain }: Pick<Track, 'chain'>): boolean =>
  chain.treatments.some(({ kind, bypassed }) => kind === 'under-speech' && !bypassed);
