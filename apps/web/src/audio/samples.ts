import { fetchBytes } from '../api/client.js';

/** Which channels of which recording samples are fetched from. */
export interface SampleSource {
  readonly recordingId: string;
  readonly channels: readonly number[];
  /** Of the recording. */
  readonly lengthFrames: number;
}

/** Frames [startFrame, endFrame) of the source's channels; the span must lie in the recording. */
export function fetchFrames({ recordingId, channels }: SampleSource, startFrame: number, endFrame: number): Promise<Float32Array[]> {
  return Promise.all(
    channels.map(async (channel) => new Float32Array(await fetchBytes(`${recordingId}/channels/${channel}`, startFrame * 4, endFrame * 4))),
  );
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
    const out = this.source.channels.map(() => new Float32Array(Math.max(0, endFrame - startFrame)));
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
