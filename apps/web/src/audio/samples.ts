import { createBlock } from '@euphonos/dsp';
import { partsIn, reelChannels, reelFrames, type Reel, type ReelPart, type Span } from '@euphonos/engine';
import { fetchBytes } from '../api/client.js';

/** The recordings that samples are fetched from. */
export interface SampleSource {
  readonly reel: Reel;
  /** How many channels come out. */
  readonly channelCount: number;
  /** Of the reel. */
  readonly lengthFrames: number;
}

export const sourceOf = (reel: Reel): SampleSource => ({ reel, channelCount: reelChannels(reel), lengthFrames: reelFrames(reel) });

/** Frames [startFrame, endFrame) of the reel; silence between its recordings. */
export async function fetchFrames({ reel, channelCount }: SampleSource, startFrame: number, endFrame: number): Promise<Float32Array[]> {
  const pieces = await Promise.all(partsIn(reel, { startFrame, endFrame }).map(({ part, span }) => fetchPart(part, span)));
  const [only] = pieces;
  if (pieces.length === 1 && only!.channels[0]!.length === endFrame - startFrame) return only!.channels;
  const out = createBlock(channelCount, Math.max(0, endFrame - startFrame));
  for (const { channels, atFrame } of pieces) channels.forEach((samples, c) => out[c]!.set(samples, atFrame - startFrame));
  return out;
}

/** A span of the reel that lies in a part; a channel that serves twice is fetched once. */
async function fetchPart({ recordingId, channels, startFrame }: ReelPart, span: Span) {
  const [from, to] = [span.startFrame - startFrame, span.endFrame - startFrame];
  const fetched = new Map<number, Promise<Float32Array>>();
  for (const channel of channels)
    if (!fetched.has(channel))
      fetched.set(
        channel,
        fetchBytes(`${recordingId}/channels/${channel}`, from * 4, to * 4).then((bytes) => new Float32Array(bytes)),
      );
  const samples = await Promise.all(channels.map((channel) => fetched.get(channel)!));
  // Each is its own, since whoever gets them may hand them over to another thread.
  return { channels: samples.map((one, c) => (channels.indexOf(channels[c]!) === c ? one : one.slice())), atFrame: span.startFrame };
}

const PIECE_FRAMES = 1 << 16;
const MOST_PIECES = 64;

/**
 * Reads any span of a recording, keeping what was fetched last: clips are short, and next to each other in the recording
 * more often than not.
 */
export class RecordingReader {
  readonly #pieces = new Map<number, Promise<Float32Array[]>>();

  constructor(private readonly source: SampleSource) {}

  readonly read = async (startFrame: number, endFrame: number): Promise<Float32Array[]> => {
    const first = Math.floor(startFrame / PIECE_FRAMES);
    const last = Math.floor((endFrame - 1) / PIECE_FRAMES);
    const out = createBlock(this.source.channelCount, Math.max(0, endFrame - startFrame));
    // Long spans are read once and are not worth keeping.
    if (last - first > MOST_PIECES / 4) return fetchFrames(this.source, startFrame, endFrame);
    const pieces = await Promise.all(Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => this.#piece(first + i)));
    pieces.forEach((piece, i) => {
      const from = (first + i) * PIECE_FRAMES;
      piece.forEach((samples, c) => {
        const begin = Math.max(startFrame, from);
        const end = Math.min(endFrame, from + samples.length);
        if (end > begin) out[c]!.set(samples.subarray(begin - from, end - from), begin - startFrame);
      });
    });
    return out;
  };

  #piece(index: number): Promise<Float32Array[]> {
    const found = this.#pieces.get(index);
    if (found) {
      this.#pieces.delete(index);
      this.#pieces.set(index, found);
      return found;
    }
    const start = index * PIECE_FRAMES;
    const made = fetchFrames(this.source, start, Math.min(this.source.lengthFrames, start + PIECE_FRAMES));
    this.#pieces.set(index, made);
    made.catch(() => this.#pieces.delete(index));
    if (this.#pieces.size > MOST_PIECES) this.#pieces.delete(this.#pieces.keys().next().value!);
    return made;
  }
}
