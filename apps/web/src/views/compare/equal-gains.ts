/** How loud something is; null for silence. */
export interface Loudness {
  readonly lufs: number | null;
  readonly truePeakDbtp: number | null;
}

/** What is raised stays under this. */
const CEILING_DBTP = -1;

/** What brings all of them to one loudness: that of the loudest, or as near as the peaks of the others let them come. 0 dB of silence. */
export function equalGainsDb(sounds: readonly Loudness[]): number[] {
  const known = sounds.flatMap(({ lufs }) => (lufs === null ? [] : [lufs]));
  if (known.length === 0) return sounds.map(() => 0);
  const room = sounds.flatMap(({ lufs, truePeakDbtp }) =>
    lufs === null || truePeakDbtp === null ? [] : [lufs + CEILING_DBTP - truePeakDbtp],
  );
  const goal = Math.min(Math.max(...known), ...room);
  return sounds.map(({ lufs }) => (lufs === null ? 0 : goal - lufs));
}
