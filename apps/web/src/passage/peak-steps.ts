/** True peaks of a mix are told by steps of this. */
export const PEAK_STEP_SECONDS = 0.5;

/** Where peaks are over a ceiling: runs of steps, in seconds. */
export function overCeiling(peaksDbtp: readonly number[], ceilingDbtp: number): { readonly atSeconds: number; readonly dbtp: number }[] {
  return peaksDbtp.flatMap((dbtp, i) => {
    if (dbtp <= ceilingDbtp || (peaksDbtp[i - 1] ?? -100) > ceilingDbtp) return [];
    let most = dbtp;
    for (let k = i; (peaksDbtp[k] ?? -100) > ceilingDbtp; k++) most = Math.max(most, peaksDbtp[k]!);
    return [{ atSeconds: i * PEAK_STEP_SECONDS, dbtp: most }];
  });
}
