import { LOWEST_HZ, type FrequencyAxis } from '@euphonos/dsp';
import type { SpectrogramTile } from '../passage/pictures.js';
import type { Rgb } from './inks.js';

/** Tiles as images in the ink of their lane; an image is made again when tile, ink or axis change. */
export class TileBitmaps {
  #images = new WeakMap<SpectrogramTile, { ink: string; canvas: OffscreenCanvas }>();

  constructor(private readonly sampleRateHz: number) {}

  /** `inkName` stands for everything that changes the image: theme, lane, floor, axis. */
  image(tile: SpectrogramTile, inkName: string, rgb: Rgb, opacity: Uint8ClampedArray, axis: FrequencyAxis): OffscreenCanvas {
    const found = this.#images.get(tile);
    if (found?.ink === inkName) return found.canvas;
    const canvas = found?.canvas ?? new OffscreenCanvas(tile.columns, tile.rows);
    const context = canvas.getContext('2d')!;
    const image = context.createImageData(tile.columns, tile.rows);
    const rowOf = this.#rows(tile, axis);
    const [r, g, b] = rgb;
    const { data } = image;
    const { levels, columns, rows } = tile;
    for (let y = 0, p = 0; y < rows; y++) {
      const row = rowOf[y]!;
      for (let x = 0; x < columns; x++, p += 4) {
        data[p] = r;
        data[p + 1] = g;
        data[p + 2] = b;
        data[p + 3] = opacity[levels[x * rows + row]!]!;
      }
    }
    context.putImageData(image, 0, 0);
    this.#images.set(tile, { ink: inkName, canvas });
    return canvas;
  }

  /** Which stored row is drawn at each row of the picture: the same, unless the axes differ. */
  #rows({ rows, axis: stored }: SpectrogramTile, shown: FrequencyAxis): Uint16Array {
    if (stored === shown) return Uint16Array.from({ length: rows }, (_, y) => y);
    const top = this.sampleRateHz / 2;
    return Uint16Array.from({ length: rows }, (_, y) => {
      const hz = (top * (rows - y - 0.5)) / rows;
      const share = Math.log(Math.max(LOWEST_HZ, hz) / LOWEST_HZ) / Math.log(top / LOWEST_HZ);
      return Math.min(rows - 1, Math.round((1 - share) * rows));
    });
  }
}
