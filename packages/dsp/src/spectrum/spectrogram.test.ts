import { kernels, RATE_HZ, sine } from '../testing/signals.js';
import { COLUMN_FLOOR_DBFS, COLUMN_STEP_DB, ColumnMaker, rowFrequency } from './spectrogram.js';

test.each(['log', 'linear'] as const)('a tone shows at its row and level on a %s axis', (axis) => {
  const rows = 160;
  const maker = new ColumnMaker(kernels, RATE_HZ, 2048, rows, axis);
  for (const hz of [234.375, 1000, 4007, 9999]) {
    const column = new Uint8Array(rows);
    maker.column(sine(hz, -20, 0.1), 0, column, 0);
    const loudest = column.indexOf(Math.max(...column));
    const row = rows - 1 - loudest;
    expect(rowFrequency(row - 1, rows, RATE_HZ, axis)).toBeLessThanOrEqual(hz);
    expect(rowFrequency(row + 2, rows, RATE_HZ, axis)).toBeGreaterThanOrEqual(hz);
    // A Hann window lowers a tone between two bins by up to 1.42 dB (Harris 1978, table I).
    const db = column[loudest]! * COLUMN_STEP_DB + COLUMN_FLOOR_DBFS;
    expect(db).toBeLessThan(-19.5);
    expect(db).toBeGreaterThan(-22.5);
  }
});

test('outside of the samples there is silence', () => {
  const column = new Uint8Array(32);
  new ColumnMaker(kernels, RATE_HZ, 512, 32, 'log').column(new Float32Array(10), 5000, column, 0);
  expect(Math.max(...column)).toBe(0);
});
