/** A range and how it is spaced along a ruler. */
export interface RulerScale {
  readonly min: number;
  readonly max: number;
  readonly scale: 'linear' | 'log';
}

/** Place of a value along the ruler, 0 … 1; values outside of the range sit at its ends. */
export function shareOf({ min, max, scale }: RulerScale, value: number): number {
  const held = Math.max(min, Math.min(max, value));
  // A range that starts at 0 has no logarithm: it is spaced linearly.
  return scale === 'log' && min > 0 ? Math.log(held / min) / Math.log(max / min) : (held - min) / (max - min);
}

/** The value at a place along the ruler. */
export function valueAt({ min, max, scale }: RulerScale, share: number): number {
  const held = Math.max(0, Math.min(1, share));
  return scale === 'log' && min > 0 ? min * (max / min) ** held : min + held * (max - min);
}

/** Round values for the ticks: powers of ten and their halves and fifths, or about five even steps. */
export function ticksOf(range: RulerScale): number[] {
  const { min, max, scale } = range;
  if (scale === 'log' && min > 0) {
    const ticks: number[] = [];
    for (let decade = 10 ** Math.floor(Math.log10(min)); decade <= max; decade *= 10)
      for (const factor of [1, 2, 5]) if (decade * factor > min && decade * factor < max) ticks.push(decade * factor);
    return ticks;
  }
  const rough = (max - min) / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((factor) => factor * power).find((candidate) => candidate >= rough) ?? rough;
  const ticks: number[] = [];
  for (let tick = Math.ceil(min / step) * step; tick <= max + 1e-9; tick += step)
    if (tick > min && tick < max) ticks.push(Number(tick.toFixed(6)));
  return ticks;
}

/** What a typed text means: the first number in it, with a comma or a point. */
export function readNumber(text: string): number | null {
  const match = /[-+−]?\d+(?:[.,]\d+)?/.exec(text.replace(/\s/g, ''));
  return match ? Number(match[0].replace('−', '-').replace(',', '.')) : null;
}
