import { BUCKET_VALUES, type FrequencyAxis } from '@euphonos/dsp';
import type { Lane } from '@euphonos/engine';
import type { Pictures, WaveTile } from '../passage/pictures.js';
import { inkTable, pageColour, pageTheme, rgbOf } from './inks.js';
import type { TileBitmaps } from './tile-bitmaps.js';
import type { TimeView } from './time-view.js';

/** How a strip is to be shown. */
export interface StripStyle {
  readonly picture: 'wave' | 'spectrogram';
  readonly axis: FrequencyAxis;
  readonly inkFloorDbfs: number;
  readonly waveScale: 'decibel' | 'linear';
  readonly waveFloorDbfs: number;
  readonly waveHeightDbfs: number;
}

type Pen = CanvasRenderingContext2D;

/** Draws one lane over the time view. The canvas is cleared first; sizes in CSS pixels. */
export function drawStrip(pen: Pen, lane: Lane, width: number, height: number, view: TimeView, pictures: Pictures, bitmaps: TileBitmaps, style: StripStyle): void {
  pen.clearRect(0, 0, width, height);
  if (!pictures.shows(lane, view.spanFrames)) return;
  if (style.picture === 'spectrogram') drawSpectrogram(pen, lane, height, view, pictures, bitmaps, style);
  else drawWave(pen, lane, width, height, view, pictures.wave(lane, view.startFrame, view.endFrame, view.framesPerPx), style);
}

function drawSpectrogram(pen: Pen, lane: Lane, height: number, view: TimeView, pictures: Pictures, bitmaps: TileBitmaps, { axis, inkFloorDbfs }: StripStyle): void {
  const rgb = rgbOf(pageColour(lane));
  const opacity = inkTable(inkFloorDbfs);
  const ink = `${pageTheme()}/${lane}/${inkFloorDbfs}/${axis}`;
  pen.imageSmoothingEnabled = true;
  for (const tile of pictures.spectrogram(lane, axis, view.startFrame, view.endFrame, view.framesPerPx)) {
    const x = view.pxAt(tile.startFrame);
    pen.drawImage(bitmaps.image(tile, ink, rgb, opacity, axis), x, 0, view.pxAt(tile.startFrame + tile.columns * tile.columnFrames) - x, height);
  }
}

interface WaveColumn {
  low: number;
  high: number;
  meanSquare: number;
}

/** The column of a wave between two frames, from whatever tiles are there; false where there is none. */
function readColumn(tiles: readonly WaveTile[], from: number, to: number, into: WaveColumn): boolean {
  let low = Infinity, high = -Infinity, squares = 0, count = 0;
  for (const { buckets, startFrame, bucketFrames } of tiles) {
    const total = buckets.length / BUCKET_VALUES;
    const first = Math.max(0, Math.floor((from - startFrame) / bucketFrames));
    const last = Math.min(total - 1, Math.max(first, Math.ceil((to - startFrame) / bucketFrames) - 1));
    if (to <= startFrame || first >= total) continue;
    for (let i = first; i <= last; i++) {
      low = Math.min(low, buckets[i * BUCKET_VALUES]!);
      high = Math.max(high, buckets[i * BUCKET_VALUES + 1]!);
      squares += buckets[i * BUCKET_VALUES + 2]!;
      count++;
    }
  }
  if (count === 0) return false;
  into.low = low;
  into.high = high;
  into.meanSquare = squares / count;
  return true;
}

/** Peaks light, RMS dark; on the decibel scale mirrored around the middle, silence being a thin line. */
export function drawWave(pen: Pen, lane: Lane, width: number, height: number, view: TimeView, tiles: readonly WaveTile[], style: StripStyle): void {
  const middle = height / 2;
  const reach = middle - 1;
  const { waveScale, waveFloorDbfs, waveHeightDbfs } = style;
  const decibel = waveScale === 'decibel';
  const gain = 10 ** (-waveHeightDbfs / 20);
  const share = (value: number): number =>
    decibel ? Math.max(0, 1 - (20 * Math.log10(value + 1e-12)) / waveFloorDbfs) : Math.min(1, value * gain);
  if (!decibel && view.framesPerPx < 1) return drawLine(pen, lane, height, view, tiles, gain);
  const showsBody = view.framesPerPx >= 8;
  const column: WaveColumn = { low: 0, high: 0, meanSquare: 0 };
  pen.fillStyle = pageColour(lane);
  // Rectangles one by one: filling one path of a thousand of them takes ten times as long without a graphics card.
  for (let x = 0; x < width; x++) {
    if (!readColumn(tiles, view.frameAt(x), view.frameAt(x + 1), column)) continue;
    const up = decibel ? share(Math.max(column.high, -column.low)) : Math.sign(column.high) * share(Math.abs(column.high));
    const down = decibel ? -up : Math.sign(column.low) * share(Math.abs(column.low));
    pen.globalAlpha = showsBody ? 0.42 : 0.85;
    pen.fillRect(x, middle - reach * up, 1, Math.max(0.6, reach * (up - down)));
    if (!showsBody) continue;
    const rms = share(Math.sqrt(column.meanSquare));
    pen.globalAlpha = 0.8;
    pen.fillRect(x, middle - reach * rms, 1, 2 * reach * rms);
  }
  pen.globalAlpha = 1;
}

/** So close that single samples are apart: a line from one to the next, with a dot on each when there is room. */
function drawLine(pen: Pen, lane: Lane, height: number, view: TimeView, tiles: readonly WaveTile[], gain: number): void {
  const middle = height / 2;
  const dots = view.framesPerPx < 0.2;
  pen.strokeStyle = pen.fillStyle = pageColour(lane);
  pen.lineWidth = 1.25;
  pen.beginPath();
  for (const { buckets, startFrame } of tiles) {
    const first = Math.max(0, Math.floor(view.startFrame) - startFrame - 1);
    const last = Math.min(buckets.length / BUCKET_VALUES - 1, Math.ceil(view.endFrame) - startFrame + 1);
    for (let i = first; i <= last; i++) {
      const x = view.pxAt(startFrame + i);
      const y = middle - (middle - 1) * Math.max(-1, Math.min(1, buckets[i * BUCKET_VALUES]! * gain));
      pen.lineTo(x, y);
      if (dots) pen.fillRect(x - 1.5, y - 1.5, 3, 3);
    }
  }
  pen.stroke();
}
