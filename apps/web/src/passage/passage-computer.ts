import {
  BUCKET_VALUES,
  Chain,
  ColumnMaker,
  createBlock,
  Turn,
  turned,
  MAX_BLOCK_FRAMES,
  type ChainSpec,
  type FrequencyAxis,
  type KernelModule,
  type NoiseProfile,
  type PlanarBlock,
} from '@euphonos/dsp';
import { readThroughChain, type Lane, type Span } from '@euphonos/engine';
import { fetchFrames, type SampleSource } from '../audio/samples.js';
import { leadFrames } from './lead.js';

/** Frames in one piece of treated sound. */
const PIECE_FRAMES = 1 << 17;
const MOST_PIECES = 100;
/** All-passes settle in this time. */
const TURN_LEAD_SECONDS = 0.4;
/** Columns of a spectrogram tile, buckets of a wave tile. */
export const TILE_COLUMNS = 128;
export const TILE_ROWS = 160;
export const TILE_BUCKETS = 512;
const COLUMN_FRAME_SIZE = 2048;

/** A stretch of the recording that a clip treats by itself. */
export interface TreatedSpan {
  readonly source: Span;
  readonly chain: ChainSpec;
}

interface Piece {
  /** Channels mixed to one, for pictures. */
  readonly source: Float32Array;
  readonly result: Float32Array;
  /** What was taken out: the source, turned as the chain turns it, less the result. */
  readonly removed: Float32Array;
}

/**
 * What pictures of a track are made of: the recording and what the chain makes of it, piece by piece, kept until the chain
 * changes. In frames of the recording, whatever the clips are: they are drawn from these pictures, each at its place, so
 * that a cut is seen at once. Runs in a worker.
 */
export class PassageComputer {
  #pieces = new Map<number, Promise<Piece>>();
  readonly #sources = new Map<number, Promise<Piece>>();
  #spec: ChainSpec = { treatments: [] };
  #treated: readonly TreatedSpan[] = [];
  #profile: NoiseProfile | undefined;
  #running: { chain: Chain; nextFrame: number } | undefined;
  #last: Promise<unknown> = Promise.resolve();
  readonly #columns = new Map<FrequencyAxis, ColumnMaker>();

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly kernels: KernelModule,
  ) {}

  get #leadFrames(): number {
    return leadFrames(this.#spec, this.source.sampleRateHz);
  }

  get #context() {
    return {
      sampleRateHz: this.source.sampleRateHz,
      channels: this.source.channelCount,
      kernels: this.kernels,
      noiseProfile: this.#profile,
    };
  }

  /** Another chain or profile, or clips with other chains of their own: everything treated is made anew. */
  setChain(spec: ChainSpec, profile: NoiseProfile | undefined, treated: readonly TreatedSpan[] = []): void {
    this.#spec = spec;
    this.#treated = treated;
    this.#profile = profile;
    this.#pieces = new Map();
    this.#running = undefined;
  }

  /** A tile of a spectrogram: TILE_COLUMNS columns of TILE_ROWS levels, 2^level frames a column. */
  async spectrogramTile(lane: Lane, axis: FrequencyAxis, level: number, index: number): Promise<Uint8Array> {
    const columnFrames = 2 ** level;
    const start = index * TILE_COLUMNS * columnFrames - COLUMN_FRAME_SIZE / 2;
    const samples = await this.#samples(lane, start, start + TILE_COLUMNS * columnFrames + COLUMN_FRAME_SIZE);
    const tile = new Uint8Array(TILE_COLUMNS * TILE_ROWS);
    const maker = this.#columnMaker(axis);
    for (let column = 0; column < TILE_COLUMNS; column++)
      maker.column(samples, Math.round((column + 0.5) * columnFrames), tile, column * TILE_ROWS);
    return tile;
  }

  #columnMaker(axis: FrequencyAxis): ColumnMaker {
    const found = this.#columns.get(axis) ?? new ColumnMaker(this.kernels, this.source.sampleRateHz, COLUMN_FRAME_SIZE, TILE_ROWS, axis);
    this.#columns.set(axis, found);
    return found;
  }

  /** A tile of a wave: TILE_BUCKETS buckets of 2^level frames, least, greatest and mean square each. */
  async waveTile(lane: Lane, level: number, index: number): Promise<Float32Array> {
    const bucketFrames = 2 ** level;
    const start = index * TILE_BUCKETS * bucketFrames;
    const samples = await this.#samples(lane, start, start + TILE_BUCKETS * bucketFrames);
    const tile = new Float32Array(TILE_BUCKETS * BUCKET_VALUES);
    for (let bucket = 0; bucket < TILE_BUCKETS; bucket++) {
      let low = Infinity,
        high = -Infinity,
        squares = 0;
      for (let n = bucket * bucketFrames; n < (bucket + 1) * bucketFrames; n++) {
        const x = samples[n]!;
        if (x < low) low = x;
        if (x > high) high = x;
        squares += x * x;
      }
      tile.set([low, high, squares / bucketFrames], bucket * BUCKET_VALUES);
    }
    return tile;
  }

  /** Frames of a lane, channels mixed; silence outside of the recording. */
  async #samples(lane: Lane, startFrame: number, endFrame: number): Promise<Float32Array> {
    const out = new Float32Array(endFrame - startFrame);
    const first = Math.max(0, Math.floor(startFrame / PIECE_FRAMES));
    const last = Math.floor((Math.min(endFrame, this.source.lengthFrames) - 1) / PIECE_FRAMES);
    for (let index = first; index <= last; index++) {
      const piece = (await this.#piece(index, lane === 'source'))[lane];
      const from = Math.max(startFrame, index * PIECE_FRAMES);
      const to = Math.min(endFrame, index * PIECE_FRAMES + piece.length);
      const first = from - index * PIECE_FRAMES;
      out.set(piece.subarray(first, first + to - from), from - startFrame);
    }
    return out;
  }

  /** What comes to the chain of the track: where a clip has a chain of its own, through that. */
  async #throughClips(samples: PlanarBlock, from: number): Promise<PlanarBlock> {
    const to = from + samples[0]!.length;
    const own = this.#treated.filter(({ source }) => source.startFrame < to && source.endFrame > from);
    if (own.length === 0) return samples;
    const heard = samples.map((channel) => channel.slice());
    const read = async (start: number, end: number): Promise<PlanarBlock> => {
      const stop = Math.min(end, this.source.lengthFrames);
      const part = stop > start ? await fetchFrames(this.source, start, stop) : [];
      return samples.map((_, c) => {
        const held = new Float32Array(end - start);
        if (part[c]) held.set(part[c]);
        return held;
      });
    };
    for (const { source, chain } of own) {
      const start = Math.max(from, source.startFrame);
      const treated = await readThroughChain(
        { kernels: this.kernels, sampleRateHz: this.source.sampleRateHz },
        chain,
        read,
        start,
        Math.min(to, source.endFrame),
      );
      treated.forEach((channel, c) => heard[c]!.set(channel, start - from));
    }
    return heard;
  }

  /** Pieces are made one after the other, so that a chain can go on from the one before. */
  #piece(index: number, sourceOnly: boolean): Promise<Piece> {
    const pieces = this.#pieces;
    const found = pieces.get(index);
    if (found) return found;
    if (sourceOnly) return this.#sourcePiece(index);
    const made = this.#last.catch(() => undefined).then(() => this.#make(index, pieces));
    this.#last = made;
    pieces.set(index, made);
    made.catch(() => pieces.delete(index));
    if (pieces.size > MOST_PIECES) pieces.delete(pieces.keys().next().value!);
    return made;
  }

  #sourcePiece(index: number): Promise<Piece> {
    const found = this.#sources.get(index);
    if (found) return found;
    const start = index * PIECE_FRAMES;
    const made = fetchFrames(this.source, start, Math.min(this.source.lengthFrames, start + PIECE_FRAMES))
      .then(mixed)
      .then((source) => ({ source, result: source, removed: new Float32Array(source.length) }));
    this.#sources.set(index, made);
    made.catch(() => this.#sources.delete(index));
    if (this.#sources.size > MOST_PIECES) this.#sources.delete(this.#sources.keys().next().value!);
    return made;
  }

  async #make(index: number, pieces: Map<number, Promise<Piece>>): Promise<Piece> {
    const { lengthFrames, channelCount } = this.source;
    const start = index * PIECE_FRAMES;
    const end = Math.min(lengthFrames, start + PIECE_FRAMES);
    let run = this.#running;
    let from = start;
    if (!run || run.nextFrame !== start) {
      from = Math.max(0, start - this.#leadFrames);
      run = { chain: new Chain({ ...this.#context, startFrame: from }, this.#spec), nextFrame: start };
    }
    // A chain that goes on has already heard its latency beyond the last piece.
    const latency = run.chain.latencyFrames;
    const heardTo = from === start && start > 0 ? start + latency : from;
    const samples = await fetchFrames(this.source, from, Math.min(lengthFrames, end + latency));
    const heard = await this.#throughClips(samples, from);
    const result = new Float32Array(end - start);
    const input = createBlock(channelCount, MAX_BLOCK_FRAMES);
    const output = createBlock(channelCount, MAX_BLOCK_FRAMES);
    for (let frame = heardTo; frame < end + latency; frame += MAX_BLOCK_FRAMES) {
      const frames = Math.min(MAX_BLOCK_FRAMES, end + latency - frame);
      for (let c = 0; c < channelCount; c++) for (let n = 0; n < frames; n++) input[c]![n] = heard[c]![frame - from + n] ?? 0;
      run.chain.process(input, output, frames);
      for (let n = Math.max(0, start + latency - frame); n < frames; n++) {
        let sum = 0;
        for (let c = 0; c < channelCount; c++) sum += output[c]![n]!;
        result[frame + n - latency - start] = sum / channelCount;
      }
    }
    run.nextFrame = end;
    // While this piece was made the chain may have changed; then its run must not be gone on with.
    if (pieces === this.#pieces) this.#running = run;
    const removed = (await this.#turned(start, end)).map((x, n) => x - result[n]!);
    return { source: mixed(samples.map((s) => s.subarray(start - from, end - from))), result, removed };
  }

  /** What came in, with the phase turned as the chain turns it: so that removed is what is lost. */
  async #turned(start: number, end: number): Promise<Float32Array> {
    const { lengthFrames, sampleRateHz } = this.source;
    const context = { sampleRateHz, channels: 1, kernels: this.kernels };
    const { plain, latencyFrames } = new Turn(context, this.#spec);
    const from = plain ? start : Math.max(0, start - Math.round(TURN_LEAD_SECONDS * sampleRateHz));
    const samples = await fetchFrames(this.source, from, Math.min(lengthFrames, end + latencyFrames));
    const [sound] = turned(context, this.#spec, [mixed(await this.#throughClips(samples, from))]);
    return sound!.subarray(start - from, end - from);
  }
}

export function mixed(channels: readonly Float32Array[]): Float32Array {
  if (channels.length === 1) return channels[0]!.slice();
  return channels[0]!.map((_, n) => channels.reduce((sum, samples) => sum + samples[n]!, 0) / channels.length);
}
