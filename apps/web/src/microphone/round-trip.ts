/** The sweep that measures the way round: loud enough for a headphone held to the microphone, short enough not to annoy. */
const SWEEP_SECONDS = 0.08;
const SWEEP_HZ = [500, 6000] as const;
const SWEEP_DBFS = -18;
/** The best place must stand so far above what is elsewhere: noise alone reaches five times its mean. */
const CLEAR_TIMES = 8;

export function probeSweep(sampleRateHz: number): Float32Array {
  const length = Math.round(SWEEP_SECONDS * sampleRateHz);
  const [from, to] = SWEEP_HZ;
  const peak = 10 ** (SWEEP_DBFS / 20);
  let phase = 0;
  return Float32Array.from({ length }, (_, n) => {
    phase += (2 * Math.PI * (from + ((to - from) * n) / length)) / sampleRateHz;
    const edge = Math.min(1, n / (0.1 * length), (length - n) / (0.1 * length));
    return peak * edge * Math.sin(phase);
  });
}

/** How many frames after it was played the sweep is heard, by correlation; null where it is not heard. */
export function roundTripFrames(sweep: Float32Array, heard: Float32Array): number | null {
  let [best, most, sum] = [0, 0, 0];
  const places = heard.length - sweep.length;
  for (let at = 0; at < places; at++) {
    let product = 0;
    for (let n = 0; n < sweep.length; n++) product += sweep[n]! * heard[at + n]!;
    const size = Math.abs(product);
    sum += size;
    if (size > most) [most, best] = [size, at];
  }
  return places > 0 && most > (CLEAR_TIMES * sum) / places && most > 1e-6 ? best : null;
}
