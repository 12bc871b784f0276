import { copyFrames } from '../copy-frames.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { dbToGain, powerToDb } from '../units.js';
import type { ListSpec, ParameterSpecs, ParameterValues, TreatmentProcessor } from './definition.js';

/** A list of stretches that are lowered or left: title and sentence, what its times mean, and fields of its own. */
export function spanList(
  title: string,
  most: number,
  sentence: string,
  times: readonly [from: string, to: string],
  fields: ParameterSpecs = {},
): ListSpec {
  const time = (name: string, meaning: string) =>
    ({
      title: name,
      unit: 's',
      min: 0,
      max: 86400,
      default: 0,
      step: 0.001,
      practice: [0, 86400],
      scale: 'linear',
      sentence: meaning,
    }) as const;
  return {
    title,
    most,
    sentence,
    choices: {
      state: {
        title: 'State',
        default: 'treat',
        sentence: 'Whether it is treated.',
        options: [
          { value: 'treat', title: 'treat', sentence: 'Lowered, where the other settings allow it.' },
          { value: 'leave', title: 'leave', sentence: 'Left as it is.' },
        ],
      },
    },
    fields: { startSeconds: time('From', times[0]), endSeconds: time('To', times[1]), ...fields },
    conflict: ({ startSeconds, endSeconds }) =>
      (startSeconds as number) >= (endSeconds as number)
        ? `startSeconds (${startSeconds}) must be before endSeconds (${endSeconds}).`
        : undefined,
  };
}

/** Stretches in their order; of two that overlap the first. */
export function apart<Span extends { readonly startSeconds: number; readonly endSeconds: number }>(spans: readonly Span[]): Span[] {
  const kept: Span[] = [];
  for (const span of [...spans].sort((a, b) => a.startSeconds - b.startSeconds))
    if (span.startSeconds >= (kept[kept.length - 1]?.endSeconds ?? 0)) kept.push(span);
  return kept;
}

/** What is moved by hand is reached by so much a frame: 10 dB take some 50 ms. */
export const GLIDE_DB = 0.004;

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
 * Times count from `context.startFrame`, or from where `locate` says; every stretch is told when it is over.
 */
export class SpanGains implements Processor {
  readonly latencyFrames = 0;
  /** As it is set; while a stretch is lowered it is gone to without a click. */
  reductionDb = 0;
  /** As it is heard; NaN where nothing was heard yet. */
  #heardDb = NaN;
  /** Rises from low to nothing over the stretch, instead of staying low. */
  ease = false;
  #at = 0;
  #next = 0;
  #power = 0;

  /** @param places in their order, none over another. */
  constructor(
    private readonly context: ProcessorContext,
    private readonly kind: string,
    private readonly places: readonly GainPlace[],
  ) {
    this.reset();
  }

  reset(): void {
    this.#goTo(this.context.startFrame ?? 0);
  }

  locate(frame: number): void {
    if (frame !== this.#at) this.#goTo(frame);
  }

  #goTo(frame: number): void {
    this.#at = frame;
    this.#power = 0;
    this.#heardDb = NaN;
    let low = 0;
    let high = this.places.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.places[middle]!.to > frame) high = middle;
      else low = middle + 1;
    }
    this.#next = low;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < input.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, 0, output[c]!, 0, frames);
    const start = this.#at;
    this.#at += frames;
    while (this.#next < this.places.length && this.places[this.#next]!.from < this.#at) {
      const place = this.places[this.#next]!;
      for (let frame = Math.max(start, place.from); frame < Math.min(this.#at, place.to); frame++) {
        if (this.#heardDb !== this.reductionDb) this.#glide(frame === place.from);
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

  #glide(atOnce: boolean): void {
    const off = this.reductionDb - this.#heardDb;
    this.#heardDb = atOnce || !(Math.abs(off) > GLIDE_DB) ? this.reductionDb : this.#heardDb + Math.sign(off) * GLIDE_DB;
  }

  #gainAt(frame: number, { from, to, fadeFrames }: GainPlace): number {
    const ramp = (x: number): number => 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, x));
    const into = ramp((frame - from + 0.5) / fadeFrames);
    const along = this.ease ? 1 - (frame - from) / (to - from) : 1;
    const end = ramp((to - frame - 0.5) / fadeFrames);
    return dbToGain(-this.#heardDb * into * along * end);
  }

  #tell({ from, to }: GainPlace): void {
    const levelDbfs = powerToDb(this.#power / Math.max(1, (to - from) * this.context.channels) + 1e-20);
    this.#power = 0;
    this.context.onEvent?.({ kind: this.kind, channel: 0, startFrame: from, endFrame: to, amountDb: this.reductionDb, levelDbfs });
  }
}

/** How a treatment lowers stretches: where, what needs new places when it changes, and what moves in place. */
export interface SpanWay<Values> {
  readonly kind: string;
  readonly fadeMs: (values: Values) => number;
  readonly spans: (values: Values) => readonly { readonly startSeconds: number; readonly endSeconds: number }[];
  readonly key: (values: Values) => string;
  readonly move: (gains: SpanGains, values: Values) => void;
}

/** A treatment that is nothing but gains over stretches. */
export class SpanTreatment<S extends ParameterSpecs> extends SpanGains implements TreatmentProcessor<S> {
  readonly #key: string;

  constructor(
    context: ProcessorContext,
    private readonly way: SpanWay<ParameterValues<S>>,
    values: ParameterValues<S>,
  ) {
    super(
      context,
      way.kind,
      way
        .spans(values)
        .map(({ startSeconds, endSeconds }) => gainPlace(startSeconds, endSeconds, way.fadeMs(values), context.sampleRateHz)),
    );
    this.#key = way.key(values);
    this.setParameters(values);
  }

  setParameters(values: ParameterValues<S>): boolean {
    if (this.way.key(values) !== this.#key) return false;
    this.way.move(this, values);
    return true;
  }
}
