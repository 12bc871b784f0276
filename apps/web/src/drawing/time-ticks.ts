const STEPS_SECONDS = [
  0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1200, 1800, 3600, 7200, 10800, 21600, 43200,
];
/** Labels stand at least this far apart. */
const LEAST_PX = 90;

/** Round times for the axis between two times, about 90 px apart or more, and the digits that their labels need. */
export function timeTicks(
  startSeconds: number,
  endSeconds: number,
  widthPx: number,
): { readonly seconds: readonly number[]; readonly digits: number } {
  const least = ((endSeconds - startSeconds) * LEAST_PX) / Math.max(1, widthPx);
  const step = STEPS_SECONDS.find((candidate) => candidate >= least) ?? STEPS_SECONDS[STEPS_SECONDS.length - 1]!;
  const first = Math.ceil(startSeconds / step - 1e-9);
  const last = Math.floor(endSeconds / step + 1e-9);
  const seconds = Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => Number(((first + i) * step).toFixed(3)));
  return { seconds, digits: step >= 1 ? 0 : step >= 0.1 ? 1 : step >= 0.01 ? 2 : 3 };
}
