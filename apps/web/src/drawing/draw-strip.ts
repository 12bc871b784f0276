import { BUCKET_VALUES, type FrequencyAxis } from '@euphonos/dsp';
import type { Lane } from '@euphonos/engine';
import type { Pictures, WaveTile } from '../passage/pictures.js';
import { inkTable, pageColour, pageTheme, rgbOf } from './inks.js';
import type { Run } from './runs.js';
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

/** Draws one lane over the time view, from the pictures of the recording. The canvas is cleared first; sizes in CSS pixels. */
export function drawStrip(
  pen: Pen,
  lane: Lane,
  width: number,
  height: number,
  view: TimeView,
  runs: readonly Run[],
  pictures: Pictures,
  bitmaps: TileBitmaps,
  style: StripStyle,
): void {
  pen.clearRect(0, 0, width, height);
  if (!pictures.shows(lane, view.spanFrames)) return;
  if (style.picture === 'spectrogram') drawSpectrogram(pen, lane, height, view, runs, pictures, bitmaps, style);
  else drawWave(pen, lane, width, height, view, runs, pictures, style);
}

/** What is shown of a run on a lane, from which lane's pictures and how strongly: what clips lower or silence is removed too. */
function layersOf(lane: Lane, run: Run): readonly { readonly from: Lane; readonly gain: number }[] {
  if (lane === 'source') return [{ from: 'source', gain: 1 }];
  const gain = run.gainAt((run.startFrame + run.endFrame) / 2);
  if (lane === 'result') return gain > 0 ? [{ from: 'result', gain }] : [];
  return [
    ...(gain > 0 ? [{ from: 'removed' as const, gain: Math.min(1, gain) }] : []),
    ...(gain < 1 ? [{ from: 'source' as const, gain: 1 - gain }] : []),
  ];
}

/** Ink of a picture that is lowered: the table of inks spans 60 dB. */
const inkShare = (gain: number): number => Math.max(0, Math.min(1, 1 + (20 * Math.log10(gain + 1e-9)) / 60));

function drawSpectrogram(
  pen: Pen,
  lane: Lane,
  height: number,
  view: TimeView,
  runs: readonly Run[],
  pictures: Pictures,
  bitmaps: TileBitmaps,
  { axis, inkFloorDbfs }: StripStyle,
): void {
  const rgb = rgbOf(pageColour(lane));
  const opacity = inkTable(inkFloorDbfs);
  const ink = `${pageTheme()}/${lane}/${inkFloorDbfs}/${axis}`;
  pen.imageSmoothingEnabled = true;
  const tiles = tilesOf(view, runs, (from, first, end) => pictures.spectrogram(from, axis, first, end, view.framesPerPx, lane));
  let drawnTo = -Infinity;
  runs.forEach((run, r) => {
    const right = view.pxAt(Math.min(view.endFrame, run.endFrame));
    // Of many runs in one pixel one is enough.
    if (right <= drawnTo + 0.75) return;
    drawnTo = right;
    for (const layer of layersOf(lane, run)) {
      pen.globalAlpha = inkShare(layer.gain) * (run.kind === 'silence' && lane === 'source' ? 0.35 : 1);
      for (const tile of tiles(r, layer.from)) {
        // The part of the tile that belongs to the run, and where. Cut out only where it must be: that is several times as slow.
        const tileEnd = tile.startFrame + tile.columns * tile.columnFrames;
        const first = Math.max(run.startFrame + run.offset, tile.startFrame);
        const end = runs.length === 1 ? tileEnd : Math.min(run.endFrame + run.offset, tileEnd);
        if (end <= first) continue;
        const x = view.pxAt(first - run.offset);
        const width = view.pxAt(end - run.offset) - x;
        if (first === tile.startFrame && end === tileEnd) pen.drawImage(bitmaps.image(tile, ink, rgb, opacity, axis), x, 0, width, height);
        else
          pen.drawImage(
            bitmaps.image(tile, ink, rgb, opacity, axis),
            (first - tile.startFrame) / tile.columnFrames,
            0,
            (end - first) / tile.columnFrames,
            tile.rows,
            x,
            0,
            Math.max(0.75, width),
            height,
          );
      }
    }
  });
  pen.globalAlpha = 1;
}

interface WaveColumn {
  low: number;
  high: number;
  meanSquare: number;
}

/** Widens a column of a wave by what is between two frames of the recording; false where there is nothing. */
function readColumn(tiles: readonly WaveTile[], from: number, to: number, gain: number, into: WaveColumn): boolean {
  let low = Infinity,
    high = -Infinity,
    squares = 0,
    count = 0;
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
  into.low = Math.min(into.low, low * gain);
  into.high = Math.max(into.high, high * gain);
  into.meanSquare = Math.max(into.meanSquare, (squares / count) * gain * gain);
  return true;
}

/** Peaks light, RMS dark; on the decibel scale mirrored around the middle, silence being a thin line. */
export function drawWave(
  pen: Pen,
  lane: Lane,
  width: number,
  height: number,
  view: TimeView,
  runs: readonly Run[],
  pictures: Pictures,
  style: StripStyle,
  asker: string = lane,
): void {
  const middle = height / 2;
  const reach = middle - 1;
  const { waveScale, waveFloorDbfs, waveHeightDbfs } = style;
  const decibel = waveScale === 'decibel';
  const scale = 10 ** (-waveHeightDbfs / 20);
  const share = (value: number): number =>
    decibel ? Math.max(0, 1 - (20 * Math.log10(value + 1e-12)) / waveFloorDbfs) : Math.min(1, value * scale);
  if (!decibel && view.framesPerPx < 1) return drawLines(pen, lane, height, view, runs, pictures, scale, asker);
  const showsBody = view.framesPerPx >= 8;
  const tiles = tilesOf(view, runs, (from, start, end) => pictures.wave(from, start, end, view.framesPerPx, asker));
  pen.fillStyle = pageColour(lane);
  let first = 0;
  const column: WaveColumn = { low: Infinity, high: -Infinity, meanSquare: 0 };
  // Rectangles one by one: filling one path of a thousand of them takes ten times as long without a graphics card.
  for (let x = 0; x < width; x++) {
    const [from, to] = [view.frameAt(x), view.frameAt(x + 1)];
    while (first < runs.length && runs[first]!.endFrame <= from) first++;
    column.low = Infinity;
    column.high = -Infinity;
    column.meanSquare = 0;
    let found = false;
    let faint = true;
    for (let i = first; i < runs.length && runs[i]!.startFrame < to; i++) {
      const run = runs[i]!;
      const [start, end] = [Math.max(from, run.startFrame) + run.offset, Math.min(to, run.endFrame) + run.offset];
      const gain = lane === 'source' ? 1 : run.gainAt((from + to) / 2);
      if (lane !== 'removed' || gain > 0)
        found = (gain > 0 && readColumn(tiles(i, lane), start, end, lane === 'removed' ? Math.min(1, gain) : gain, column)) || found;
      if (lane === 'removed' && gain < 1) found = readColumn(tiles(i, 'source'), start, end, 1 - gain, column) || found;
      faint &&= lane === 'source' && run.kind === 'silence';
    }
    if (!found) continue;
    const up = decibel ? share(Math.max(column.high, -column.low)) : Math.sign(column.high) * share(Math.abs(column.high));
    const down = decibel ? -up : Math.sign(column.low) * share(Math.abs(column.low));
    const strength = faint ? 0.35 : 1;
    pen.globalAlpha = strength * (showsBody ? 0.42 : 0.85);
    pen.fillRect(x, middle - reach * up, 1, Math.max(0.6, reach * (up - down)));
    if (!showsBody) continue;
    const rms = share(Math.sqrt(column.meanSquare));
    pen.globalAlpha = strength * 0.8;
    pen.fillRect(x, middle - reach * rms, 1, 2 * reach * rms);
  }
  pen.globalAlpha = 1;
}

/** More runs than this are not asked for one by one: the pictures of all that lies between them are. */
const MANY_RUNS = 40;
/** As long as that is not much more than what is shown. */
const MOST_WIDER = 3;

/** The tiles that a run is drawn from, of a lane; asked for once a frame. */
function tilesOf<Tile extends { readonly startFrame: number }>(
  view: TimeView,
  runs: readonly Run[],
  ask: (of: Lane, startFrame: number, endFrame: number) => readonly Tile[],
): (run: number, of: Lane) => readonly Tile[] {
  const known: Record<Lane, Map<number, readonly Tile[]>> = { source: new Map(), removed: new Map(), result: new Map() };
  const once = (run: number, from: Lane, start: number, end: number): readonly Tile[] => {
    const kept = known[from].get(run);
    if (kept) return kept;
    const found = ask(from, start, end);
    known[from].set(run, found);
    return found;
  };
  const shown = (run: Run): readonly [number, number] => [
    Math.max(view.startFrame, run.startFrame) + run.offset,
    Math.min(view.endFrame, run.endFrame) + run.offset,
  ];
  let start = Infinity,
    end = -Infinity;
  for (const run of runs) {
    const [from, to] = shown(run);
    start = Math.min(start, from);
    end = Math.max(end, to);
  }
  const together = runs.length > MANY_RUNS && end - start < MOST_WIDER * view.spanFrames;
  // One after the other in the recording, as most are: the tile of the run before is where the next one is looked for.
  let near = 0;
  return (r, from) => {
    const kept = together ? undefined : known[from].get(r);
    if (kept) return kept;
    const [first, last] = shown(runs[r]!);
    if (!together) return once(r, from, first, last);
    const all = once(-1, from, start, end);
    if (near >= all.length || all[near]!.startFrame > first) near = 0;
    while (near + 1 < all.length && all[near + 1]!.startFrame <= first) near++;
    let stop = near + 1;
    while (stop < all.length && all[stop]!.startFrame < last) stop++;
    return all.slice(near, stop);
  };
}

/** So close that single samples are apart: a line from one to the next, with a dot on each when there is room. */
function drawLines(
  pen: Pen,
  lane: Lane,
  height: number,
  view: TimeView,
  runs: readonly Run[],
  pictures: Pictures,
  scale: number,
  asker: string,
): void {
  const middle = height / 2;
  const dots = view.framesPerPx < 0.2;
  const tiles = tilesOf(view, runs, (from, start, end) => pictures.wave(from, start, end, view.framesPerPx, asker));
  pen.strokeStyle = pen.fillStyle = pageColour(lane);
  pen.lineWidth = 1.25;
  runs.forEach((run, r) => {
    pen.beginPath();
    for (const { buckets, startFrame } of tiles(r, lane)) {
      const from = Math.max(view.startFrame, run.startFrame) + run.offset;
      const to = Math.min(view.endFrame, run.endFrame) + run.offset;
      const first = Math.max(0, Math.floor(from) - startFrame - (view.startFrame > run.startFrame ? 1 : 0));
      const last = Math.min(buckets.length / BUCKET_VALUES - 1, Math.ceil(to) - startFrame);
      for (let i = first; i <= last; i++) {
        const frame = startFrame + i - run.offset;
        const x = view.pxAt(frame);
        const gain = scale * (lane === 'result' ? run.gainAt(frame) : 1);
        const y = middle - (middle - 1) * Math.max(-1, Math.min(1, buckets[i * BUCKET_VALUES]! * gain));
        pen.lineTo(x, y);
        if (dots) pen.fillRect(x - 1.5, y - 1.5, 3, 3);
      }
    }
    pen.stroke();
  });
}
