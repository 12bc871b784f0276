/**
 * Fewer columns of a spectrogram: each is the mean of `factor` of them, of fewer at the end.
 * @param levels column by column, `rows` each
 */
export function thinColumns(levels: Uint8Array, rows: number, factor: number): Uint8Array {
  if (factor === 1) return levels;
  const columns = levels.length / rows;
  const out = new Uint8Array(Math.ceil(columns / factor) * rows);
  const sums = new Uint32Array(rows);
  for (let from = 0; from < columns; from += factor) {
    const count = Math.min(factor, columns - from);
    sums.fill(0);
    for (let i = 0, at = from * rows; i < count; i++) for (let row = 0; row < rows; row++) sums[row]! += levels[at++]!;
    for (let row = 0; row < rows; row++) out[(from / factor) * rows + row] = Math.round(sums[row]! / count);
  }
  return out;
}
