import { copyFrames } from '../../copy-frames.js';
import { DelayLine } from '../../delay-line.js';
import type { Memory } from '../../memory.js';
import { OpinionStream } from '../../noise/opinion-stream.js';
import { MAX_BLOCK_FRAMES } from '../../processor.js';

/** Of one channel: the sound, held back until the second network has spoken, and what it said. */
interface Lane {
  readonly stream: OpinionStream;
  readonly held: DelayLine;
  /** What it said lately, as a ring. */
  readonly said: Float32Array;
  /** Samples heard, and said, since the beginning of the stream. */
  heard: number;
  spoken: number;
}

/**
 * A second network's speech beside noise reduction, in line with the frame that is weighed: it is late, so the sound waits for it by
 * `delayFrames`, whole hops.
 */
export class SecondOpinion {
  readonly delayFrames: number;
  readonly #lanes: readonly Lane[];
  /** From where in what it said the frame that is weighed begins, counted back from what was heard. */
  readonly #back: number;

  /** @param weighedFrames by how much the frame that is weighed is older than the newest one. */
  constructor(
    sampleRateHz: number,
    channels: number,
    private readonly size: number,
    weighedFrames: number,
  ) {
    const hop = size / 4;
    const streams = Array.from({ length: channels }, () => new OpinionStream(sampleRateHz));
    const { lagFrames, blockFrames } = streams[0]!;
    this.delayFrames = hop * Math.max(0, Math.ceil((lagFrames + blockFrames - weighedFrames) / hop));
    this.#back = this.delayFrames + weighedFrames + size - lagFrames;
    const ring = 2 ** Math.ceil(Math.log2(this.#back + blockFrames + hop));
    this.#lanes = streams.map((stream) => ({
      stream,
      held: new DelayLine(this.delayFrames),
      said: new Float32Array(ring),
      heard: 0,
      spoken: 0,
    }));
  }

  /** Hears the next frames of a channel, and gives those that are due to `to`. */
  push(channel: number, input: Float32Array, from: number, frames: number, to: Float32Array, at: number): void {
    const lane = this.#lanes[channel]!;
    const { said, stream, held } = lane;
    for (let n = 0; n < frames; n += MAX_BLOCK_FRAMES) {
      const count = Math.min(MAX_BLOCK_FRAMES, frames - n);
      held.push(input, from + n, count);
      copyFrames(held.samples, 0, to, at + n, count);
      held.shift(count);
    }
    stream.push(input, from, from + frames, (x) => (said[lane.spoken++ % said.length] = x));
    lane.heard += frames;
  }

  /** What it said of the frame that is weighed next. */
  say(channel: number, into: Float32Array): void {
    const { said, heard } = this.#lanes[channel]!;
    const from = heard - this.#back;
    for (let n = 0; n < this.size; n++) into[n] = from + n < 0 ? 0 : said[(from + n) % said.length]!;
  }

  /** Counted from the beginning of the stream, as blocks are. */
  goOnAt(frame: number): void {
    for (const lane of this.#lanes) {
      lane.stream.goOnAt(frame);
      lane.heard = frame;
      lane.spoken = lane.stream.saidAt(frame);
    }
  }

  remember(memory: Memory): void {
    for (const { stream } of this.#lanes) stream.remember(memory);
  }

  reset(): void {
    for (const lane of this.#lanes) {
      lane.stream.reset();
      lane.held.reset();
      lane.said.fill(0);
      lane.heard = lane.spoken = 0;
    }
  }
}
