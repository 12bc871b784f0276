import { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, LEVEL_RATIO, levelOffset, peakLevelCount, type FrequencyAxis } from '@euphonos/dsp';
import { COARSE_HOP_FRAMES, COARSE_ROWS } from '@euphonos/dsp';
import { partsIn, type Lane } from '@euphonos/engine';
import type { SampleSource } from '../audio/samples.js';
import { fetchBytes } from '../api/client.js';
import { peaksPath } from './peaks-path.js';
import type { Passage } from './passage.js';
import { TILE_BUCKETS, TILE_COLUMNS, TILE_ROWS } from './passage-computer.js';
import { thinColumns } from './thin-columns.js';
import { TileQueue } from './tile-queue.js';

/** Peaks are fetched in pieces of this many buckets. */
const PEAK_PIECE = 2048;
/** Coarse columns a tile. */
const COARSE_COLUMNS = 512;
const COARSE_LEVEL = Math.log2(COARSE_HOP_FRAMES);
/** Where the view is long 8 or 64 of them become one, in few steps, so that whoever comes closer does not wait at each. */
const THINNED = [6, 3, 0];
/** The longest stretch for which removed and result are computed as pictures. */
export const MOST_TREATED_SECONDS = 240;

/** A piece of a spectrogram: columns × rows levels, column by column, highest frequency first. */
export interface SpectrogramTile {
  readonly levels: Uint8Array;
  readonly columns: number;
  readonly rows: number;
  readonly startFrame: number;
  readonly columnFrames: number;
  readonly axis: FrequencyAxis;
}

/** A piece of a wave: least, greatest and mean square for each bucket. */
export interface WaveTile {
  readonly buckets: Float32Array;
  readonly startFrame: number;
  readonly bucketFrames: number;
}

interface PictureSource extends SampleSource {
  readonly sampleRateHz: number;
  /** How many channels each recording has. */
  readonly allChannels: ReadonlyMap<string, number>;
}

/** Tiles for the strips, in frames of the reel: from the server where it has them ready, from the passage worker otherwise. */
export class Pictures {
  readonly #spectrograms: TileQueue<SpectrogramTile>;
  readonly #waves: TileQueue<WaveTile>;

  constructor(
    readonly source: PictureSource,
    private readonly passage: Passage,
    onArrival: () => void,
    onTrouble: (error: unknown) => void,
  ) {
    this.#spectrograms = new TileQueue(onArrival, onTrouble);
    this.#waves = new TileQueue(onArrival, onTrouble);
  }

  /** A lane of the strips, or the overview, starts to draw. */
  startFrame(asker: string): void {
    this.#spectrograms.startFrame(asker);
    this.#waves.startFrame(asker);
  }

  endFrame(): void {
    this.#waves.endFrame();
    this.#spectrograms.endFrame();
  }

  get waiting(): boolean {
    return this.#spectrograms.waiting || this.#waves.waiting;
  }

  /** Whether a lane can be shown over that many frames. */
  shows(lane: Lane, spanFrames: number): boolean {
    return lane === 'source' || spanFrames <= MOST_TREATED_SECONDS * this.source.sampleRateHz * 1.05;
  }

  /** Tiles that cover [startFrame, endFrame), as far as they are there. */
  spectrogram(
    lane: Lane,
    axis: FrequencyAxis,
    startFrame: number,
    endFrame: number,
    framesPerPx: number,
    asker: string = lane,
  ): SpectrogramTile[] {
    if (this.#notYet(lane)) return [];
    const wished = Math.max(6, Math.floor(Math.log2(framesPerPx * 1.4)));
    if (lane === 'source' && wished >= COARSE_LEVEL)
      return this.#coarse(
        asker,
        startFrame,
        endFrame,
        THINNED.find((step) => step <= wished - COARSE_LEVEL)!,
      );
    const level = Math.min(COARSE_LEVEL, wished);
    const tileFrames = TILE_COLUMNS * 2 ** level;
    return this.#cover(startFrame, endFrame, tileFrames).flatMap((index) => {
      const tile = this.#spectrograms.want(asker, { key: `${lane}/${axis}/${level}/${index}`, version: this.#version(lane) }, async () => ({
        levels: await this.passage.spectrogramTile(lane, axis, level, index),
        columns: TILE_COLUMNS,
        rows: TILE_ROWS,
        startFrame: index * tileFrames,
        columnFrames: 2 ** level,
        axis,
      }));
      return tile ? [tile] : [];
    });
  }

  /** @param thinned so often two columns become one: a day would be half a million */
  #coarse(asker: string, startFrame: number, endFrame: number, thinned: number): SpectrogramTile[] {
    const factor = 2 ** thinned;
    const tileColumns = COARSE_COLUMNS * factor;
    const tileFrames = tileColumns * COARSE_HOP_FRAMES;
    return partsIn(this.source.reel, { startFrame, endFrame }).flatMap(({ part, span }) =>
      tilesOver(span.startFrame - part.startFrame, span.endFrame - part.startFrame, tileFrames).flatMap((index) => {
        const first = index * tileColumns;
        const columns = Math.min(tileColumns, Math.floor(part.frames / COARSE_HOP_FRAMES) - first);
        if (columns <= 0) return [];
        const tile = this.#spectrograms.want(asker, { key: `coarse/${thinned}/${part.startFrame}/${index}`, version: 0 }, async () => ({
          levels: thinColumns(
            new Uint8Array(await fetchBytes(`${part.recordingId}/spectrogram`, first * COARSE_ROWS, (first + columns) * COARSE_ROWS)),
            COARSE_ROWS,
            factor,
          ),
          columns: Math.ceil(columns / factor),
          rows: COARSE_ROWS,
          startFrame: part.startFrame + index * tileFrames,
          columnFrames: COARSE_HOP_FRAMES * factor,
          axis: 'log' as const,
        }));
        return tile ? [tile] : [];
      }),
    );
  }

  wave(lane: Lane, startFrame: number, endFrame: number, framesPerPx: number, asker: string = lane): WaveTile[] {
    if (lane === 'source' && framesPerPx >= BUCKET_FRAMES && this.#peaksFit) return this.#peaks(asker, startFrame, endFrame, framesPerPx);
    if (this.#notYet(lane)) return [];
    const level = Math.max(0, Math.min(13, Math.floor(Math.log2(framesPerPx))));
    const tileFrames = TILE_BUCKETS * 2 ** level;
    return this.#cover(startFrame, endFrame, tileFrames).flatMap((index) => {
      const tile = this.#waves.want(asker, { key: `${lane}/${level}/${index}`, version: this.#version(lane) }, async () => ({
        buckets: await this.passage.waveTile(lane, level, index),
        startFrame: index * tileFrames,
        bucketFrames: 2 ** level,
      }));
      return tile ? [tile] : [];
    });
  }

  /** Stored are the peaks of all channels of a recording, and of each by itself: good when one of them is used, or all. */
  get #peaksFit(): boolean {
    const { reel, allChannels, lengthFrames, sampleRateHz } = this.source;
    return (
      lengthFrames > MOST_TREATED_SECONDS * sampleRateHz ||
      reel.every(({ recordingId, channels }) => new Set(channels).size === 1 || new Set(channels).size === allChannels.get(recordingId))
    );
  }

  #peaks(asker: string, startFrame: number, endFrame: number, framesPerPx: number): WaveTile[] {
    const wished = Math.floor(Math.log(framesPerPx / BUCKET_FRAMES) / Math.log(LEVEL_RATIO));
    const bytes = BUCKET_VALUES * 4;
    return partsIn(this.source.reel, { startFrame, endFrame }).flatMap(({ part, span }) => {
      const level = Math.max(0, Math.min(peakLevelCount(part.frames) - 1, wished));
      const bucketFrames = BUCKET_FRAMES * LEVEL_RATIO ** level;
      const offset = levelOffset(part.frames, level);
      return tilesOver(span.startFrame - part.startFrame, span.endFrame - part.startFrame, PEAK_PIECE * bucketFrames).flatMap((index) => {
        const first = index * PEAK_PIECE;
        const count = Math.min(PEAK_PIECE, bucketCount(part.frames, level) - first);
        if (count <= 0) return [];
        const tile = this.#waves.want(asker, { key: `peaks/${part.startFrame}/${level}/${index}`, version: 0 }, async () => ({
          buckets: new Float32Array(
            await fetchBytes(
              peaksPath(part, this.source.allChannels.get(part.recordingId)),
              (offset + first) * bytes,
              (offset + first + count) * bytes,
            ),
          ),
          startFrame: part.startFrame + first * bucketFrames,
          bucketFrames,
        }));
        return tile ? [tile] : [];
      });
    });
  }

  /** Before the passage has its first chain there is nothing treated to show. */
  #notYet = (lane: Lane): boolean => lane !== 'source' && this.passage.version === 0;

  #version = (lane: Lane): number => (lane === 'source' ? 0 : this.passage.version);

  /** Indices of the tiles that cover a stretch. */
  #cover(startFrame: number, endFrame: number, tileFrames: number): number[] {
    return tilesOver(startFrame, Math.min(endFrame, this.source.lengthFrames), tileFrames);
  }
}

function tilesOver(startFrame: number, endFrame: number, tileFrames: number): number[] {
  const first = Math.max(0, Math.floor(startFrame / tileFrames));
  const last = Math.floor((endFrame - 1) / tileFrames);
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i);
}
