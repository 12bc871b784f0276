import { copyFrames } from '../copy-frames.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { dbToGain, powerToDb } from '../units.js';

/** A stretch of the recording that is lowered, in frames, with the length of its fades. */
export interface GainPlace {
  readonly from: number;
  readonly to: number;
  readonly fadeFrames: number;
}

/** A place from seconds; its fades take no more than half of it. */
export function gainPlace(startSeconds: number, endSeconds: number, fadeMs: number, sampleRateHz: number): GainPlace {
  const [from, to] = [Math.round(startSeconds * sampleRateHz), Math.round(endSeconds * sampleRateHz)];
  return { from, to, fadeFrames: Math.max(1, Math.min(Math.round((fadeMs / 1000) * sampleRateHz), (to - from) >> 1)) };
}

/**
 * A gain over stretches of the recording, with raised-cosine fades inside of them; nothing else is touched, not by a bit.
 * Times count from `context.startFrame`; every stretch is told when it is over.
 */
export class SpanGains implements Processor {
  readonly latencyFrames = 0;
  reductionDb = 0;
  /** Rises from low to nothing over the stretch, instead of staying low. */
  ease = false;
  #at = 0;
  #next = 0;
  #power = 0;

  /** @param places in their order, none over another. */
  constructor(private readonly context: ProcessorContext, private readonly kind: string, private readonly places: readonly GainPlace[]) {
    this.reset();
  }

  reset(): void {
    this.#at = this.context.startFrame ?? 0;
    const next = this.places.findIndex(({ to }) => to > this.#at);
    this.#next = next < 0 ? this.places.length : next;
    this.#power = 0;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < input.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, 0, output[c]!, 0, frames);
    const start = this.#at;
    this.#at += frames;
    while (this.#next < this.places.length && this.places[this.#next]!.from < this.#at) {
      const place = this.places[this.#next]!;
      for (let frame = Math.max(start, place.from); frame < Math.min(this.#at, place.to); frame++) {
        const gain = this.#gainAt(frame, place);
        for (let c = 0; c < output.length; c++) {
          const x = output[c]![frame - start]!;
          this.#power += x * x;
          output[c]![frame - start] = x * gain;
        }
      }
      if (place.to > this.#at) return;
      this.#tell(place);
      this.#next++;
    }
  }

  #gainAt(frame: number, { from, to, fadeFrames }: GainPlace): number {
    const ramp = (x: number): number => 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, x));
    const into = ramp((frame - from + 0.5) / fadeFrames);
    const along = this.ease ? 1 - (frame - from) / (to - from) : 1;
    const end = ramp((to - frame - 0.5) / fadeFrames);
    return dbToGain(-this.reductionDb * into * along * end);
  }

  #tell({ from, to }: GainPlace): void {
    const levelDbfs = powerToDb(this.#power / Math.max(1, (to - from) * this.context.channels) + 1e-20);
    this.#power = 0;
    this.context.onEvent?.({ kind: this.kind, channel: 0, startFrame: from, endFrame: to, amountDb: this.reductionDb, levelDbfs });
  }
}
