import { createBlock, type PlanarBlock } from '@euphonos/dsp';
import type { Span } from '../document/span.js';
import type { SampleStore } from './sample-store.js';

/** The end of a loop and its beginning are crossfaded over this long, so that the seam does not click. */
export const SEAM_FRAMES = 256;

/**
 * The endless stream that is heard: play positions, counted on without end, mapped to frames of the recording.
 * Every reader of the same position gets the same frame, so source and result stay aligned through a loop.
 */
export class Timeline {
  #position = 0;
  #frame = 0;
  #loop: Span | null = null;
  /** For one channel and for as many as any track has. */
  readonly #seams: readonly (readonly Float32Array[])[];

  constructor(
    channels: number,
    private store: SampleStore,
  ) {
    const seam = createBlock(Math.max(2, channels), SEAM_FRAMES);
    this.#seams = seam.map((_, c) => seam.slice(0, c + 1));
  }

  /** Another source; what is read from now on comes from there. */
  setStore(store: SampleStore): void {
    this.store = store;
  }

  get loop(): Span | null {
    return this.#loop;
  }

  /** From now on, `position` is `frame`, and a loop that lies ahead repeats. */
  anchor(position: number, frame: number, loop: Span | null): void {
    this.#position = position;
    this.#frame = frame;
    this.#loop = loop;
  }

  /** The frame of the recording at a play position. */
  frameAt(position: number): number {
    const frame = this.#frame + position - this.#position;
    const loop = this.#loop;
    if (!loop || this.#frame >= loop.endFrame || frame < loop.endFrame) return frame;
    return loop.startFrame + ((frame - loop.startFrame) % (loop.endFrame - loop.startFrame));
  }

  /** Copies `frames` frames from `position` on. False when some are not there yet. */
  read(position: number, into: PlanarBlock, frames: number, store: SampleStore = this.store): boolean {
    let at = 0;
    while (at < frames) {
      const frame = this.frameAt(position + at);
      const loop = this.#loop && this.#frame < this.#loop.endFrame ? this.#loop : null;
      const count = loop ? Math.min(frames - at, loop.endFrame - frame) : frames - at;
      if (!store.read(frame, into, at, count)) return false;
      if (loop && frame + count > loop.endFrame - SEAM_FRAMES && !this.#blendSeam(store, loop, frame, into, at, count)) return false;
      at += count;
    }
    return true;
  }

  /** Towards the end of the loop, what comes before its beginning fades in (equal power). */
  #blendSeam(store: SampleStore, loop: Span, frame: number, into: PlanarBlock, at: number, count: number): boolean {
    const seamStart = loop.endFrame - Math.min(SEAM_FRAMES, loop.endFrame - loop.startFrame);
    const from = Math.max(frame, seamStart);
    const blended = frame + count - from;
    const seam = this.#seams[into.length - 1]!;
    if (!store.read(loop.startFrame - (loop.endFrame - from), seam, 0, blended)) return false;
    for (let n = 0; n < blended; n++) {
      const angle = ((from + n - seamStart + 0.5) / (loop.endFrame - seamStart)) * (Math.PI / 2);
      const out = Math.cos(angle);
      const incoming = Math.sin(angle);
      const target = at + from - frame + n;
      for (let c = 0; c < into.length; c++) into[c]![target] = into[c]![target]! * out + seam[c]![n]! * incoming;
    }
    return true;
  }
}
