import { copyFrames } from '../copy-frames.js';
import type { Memory } from '../memory.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { Cascade } from './cascade.js';
import type { Section } from './sections.js';

/** Coefficients are recomputed this often while a value glides: finer than any step that could be heard. */
const STEP_FRAMES = 32;
/** Time constant of the glide. */
const GLIDE_MS = 12;

/**
 * A cascade whose coefficients follow a few positive values (frequencies, widths) without a click: each
 * value glides to its target, in equal ratios, in steps of 32 frames counted from the start of the stream.
 */
export class GlidingFilter implements Processor {
  readonly latencyFrames = 0;
  readonly #cascades: Cascade[];
  readonly #values: Float64Array;
  readonly #targets: Float64Array;
  readonly #share: number;
  #framesToStep = STEP_FRAMES;
  #gliding = false;

  /** @param design Sections for the values; always the same number of them. */
  constructor(
    { channels, sampleRateHz, kernels }: ProcessorContext,
    values: readonly number[],
    private readonly design: (values: Float64Array) => Section[],
  ) {
    this.#values = Float64Array.from(values);
    this.#targets = Float64Array.from(values);
    this.#share = 1 - Math.exp((-STEP_FRAMES * 1000) / (GLIDE_MS * sampleRateHz));
    const sections = design(this.#values);
    this.#cascades = Array.from({ length: channels }, () => new Cascade(kernels, sections));
  }

  /** New targets, one for each value given at creation. */
  glideTo(values: readonly number[]): void {
    this.#targets.set(values);
    this.#gliding = true;
  }

  /** Steps are counted from the beginning of the stream. */
  protected countFrom(frame: number): void {
    this.#framesToStep = STEP_FRAMES - (frame % STEP_FRAMES);
  }

  /** Values and what rings, for what moves the values by what it remembers, or rings for long. */
  protected rememberFilter(memory: Memory): void {
    for (let i = 0; i < this.#values.length; i++) this.#values[i] = memory.number(this.#values[i]!);
    for (let i = 0; i < this.#targets.length; i++) this.#targets[i] = memory.number(this.#targets[i]!);
    this.#gliding = memory.number(this.#gliding ? 1 : 0) === 1;
    this.#apply();
    for (const cascade of this.#cascades) cascade.remember(memory);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#cascades.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, 0, output[c]!, 0, frames);
    let from = 0;
    while (from < frames) {
      // Standing still, there is no need to stop at every step.
      const to = this.#gliding ? Math.min(frames, from + this.#framesToStep) : frames;
      for (let c = 0; c < this.#cascades.length; c++) this.#cascades[c]!.process(output[c]!, from, to);
      this.#framesToStep -= to - from;
      from = to;
      if (this.#framesToStep <= 0) {
        this.#framesToStep = STEP_FRAMES + (this.#framesToStep % STEP_FRAMES);
        if (this.#gliding) this.#step();
      }
    }
  }

  reset(): void {
    this.#values.set(this.#targets);
    this.#framesToStep = STEP_FRAMES;
    this.#gliding = false;
    this.#apply();
    for (const cascade of this.#cascades) cascade.reset();
  }

  #step(): void {
    let moving = false;
    for (let i = 0; i < this.#values.length; i++) {
      const ratio = this.#targets[i]! / this.#values[i]!;
      if (Math.abs(ratio - 1) < 1e-4) this.#values[i] = this.#targets[i]!;
      else {
        this.#values[i]! *= ratio ** this.#share;
        moving = true;
      }
    }
    this.#gliding = moving;
    this.#apply();
  }

  #apply(): void {
    const sections = this.design(this.#values);
    for (const cascade of this.#cascades) cascade.set(sections);
  }
}
