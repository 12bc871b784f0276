import { DelayLine } from '../delay-line.js';
import { createBlock, MAX_BLOCK_FRAMES, type PlanarBlock, type Processor, type ProcessorContext } from '../processor.js';
import type { Memory } from '../memory.js';
import { stageFacts, type StageFacts, type TreatmentProcessor } from '../treatments/definition.js';
import { findTreatment } from '../treatments/registry.js';
import { needsProfile, parametersOf, type ChainSpec, type TreatmentSettings } from './chain-spec.js';
import { moveStages } from './move-stages.js';
import { Turn } from './turn.js';

/** The treatments of a spec that sound: not bypassed, and not waiting for a profile that is missing. */
const sounding = (spec: ChainSpec, hasProfile: boolean) =>
  spec.treatments.filter((settings) => !settings.bypassed && (hasProfile || !needsProfile(settings)));

/** Up to and with the treatment that is heard alone; all of them when none is, and none when that one does not sound. */
function upTo(active: readonly TreatmentSettings[], alone: string | undefined): readonly TreatmentSettings[] {
  const at = alone === undefined ? -1 : active.findIndex(({ id }) => id === alone);
  return alone === undefined ? active : active.slice(0, at + 1);
}

/** Treatments in series. Bypassed ones are left out, and so is what needs a noise profile while there is none. */
export class Chain implements Processor {
  readonly latencyFrames: number;
  readonly #stages: TreatmentProcessor[];
  /** By how much what each stage hears is late. */
  readonly #late: number[] = [];
  readonly #holdsTimes: boolean;
  readonly #remembering: readonly TreatmentProcessor[];
  #settings: readonly TreatmentSettings[];
  readonly #alone: string | undefined;
  /** For what one stage takes out: what goes into it, its phase turned alike, as late as it comes out. */
  readonly #before: Before | null;

  constructor(
    private readonly context: ProcessorContext,
    spec: ChainSpec,
  ) {
    const active = upTo(sounding(spec, context.noiseProfile !== undefined), spec.alone);
    this.#settings = active;
    this.#alone = spec.alone;
    // What a stage hears is late by all that stands before it: so much earlier begins its count of the recording.
    let late = 0;
    this.#stages = active.map((settings) => {
      const stage = findTreatment(settings.kind)!.create(
        { ...context, startFrame: (context.startFrame ?? 0) - late },
        parametersOf(settings),
      );
      this.#late.push(late);
      late += stage.latencyFrames;
      return stage;
    });
    const last = this.#stages[this.#stages.length - 1];
    this.#before = spec.alone !== undefined && last ? new Before(context, active[active.length - 1]!, last.latencyFrames) : null;
    this.latencyFrames = late + (this.#before?.moreFrames ?? 0);
    this.#remembering = this.#stages.filter(({ remember }) => remember !== undefined);
    this.#holdsTimes = this.#stages.some((stage) => stage.locate !== undefined);
  }

  /**
   * Moves to the parameters of another spec without a click. False when the order, the number of
   * treatments or something inside one differs so much that a new chain is needed.
   */
  setParameters(spec: ChainSpec): boolean {
    if (spec.alone !== this.#alone) return false;
    const active = upTo(sounding(spec, this.context.noiseProfile !== undefined), spec.alone);
    if (!moveStages(this.#stages, this.#settings, active)) return false;
    if (this.#before && !this.#before.turn.setParameters({ treatments: active.slice(-1) })) return false;
    this.#settings = active;
    return true;
  }

  /** Tells stages that hold times of the recording where they are: `frameAgo` gives the frame that came in so many frames before the next one. */
  locateStages(frameAgo: (frames: number) => number): void {
    if (!this.#holdsTimes) return;
    for (let i = 0; i < this.#stages.length; i++) this.#stages[i]!.locate?.(frameAgo(this.#late[i]!));
  }

  /** What it is made of, in order. */
  get stages(): readonly StageFacts[] {
    return this.#stages.map(stageFacts);
  }

  /** How many stages remember for long. */
  get rememberingStages(): number {
    return this.#remembering.length;
  }

  /** After a reset: what comes in goes on at this frame of the stream. */
  goOnAt(frame: number): void {
    for (const stage of this.#stages) stage.goOnAt?.(frame);
    this.#before?.turn.goOnAt(frame);
  }

  /** What one of the remembering stages remembers, written or read. It is right only once those before it have been. */
  rememberStage(index: number, memory: Memory): void {
    const stage = this.#remembering[index]!;
    stage.remember!(memory);
    if (stage === this.#stages[this.#stages.length - 1] && this.#before?.turn.rememberingStages) this.#before.turn.rememberStage(0, memory);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    if (this.#stages.length === 0 && this.#alone !== undefined) {
      // What does not sound takes nothing out.
      for (const samples of output) samples.fill(0, 0, frames);
      return;
    }
    if (this.#stages.length === 0) {
      for (let c = 0; c < output.length; c++) if (input[c] !== output[c]) for (let n = 0; n < frames; n++) output[c]![n] = input[c]![n]!;
      return;
    }
    let from = input;
    for (let i = 0; i < this.#stages.length; i++) {
      if (i === this.#stages.length - 1) this.#before?.take(from, frames);
      this.#stages[i]!.process(from, output, frames);
      from = output;
    }
    this.#before?.takeOut(output, frames);
  }

  reset(): void {
    this.#before?.reset();
    for (const stage of this.#stages) stage.reset();
  }
}

/** What goes into a stage that is heard alone: turned as the stage turns it, and in line with what comes out of it. */
class Before {
  readonly turn: Turn;
  /** By how much the stage must wait for the turn. */
  readonly moreFrames: number;
  readonly #turned: Float32Array[];
  readonly #given: readonly DelayLine[];
  readonly #made: readonly DelayLine[];

  constructor(context: ProcessorContext, settings: TreatmentSettings, latencyFrames: number) {
    this.turn = new Turn(context, { treatments: [settings] });
    this.moreFrames = Math.max(0, this.turn.latencyFrames - latencyFrames);
    this.#turned = createBlock(context.channels, MAX_BLOCK_FRAMES);
    const lines = (frames: number) => this.#turned.map(() => new DelayLine(frames));
    this.#given = lines(Math.max(0, latencyFrames - this.turn.latencyFrames));
    this.#made = lines(this.moreFrames);
  }

  take(input: PlanarBlock, frames: number): void {
    this.turn.process(input, this.#turned, frames);
    for (let c = 0; c < this.#given.length; c++) this.#given[c]!.push(this.#turned[c]!, 0, frames);
  }

  /** What the stage made becomes what it took out. */
  takeOut(output: PlanarBlock, frames: number): void {
    for (let c = 0; c < output.length; c++) {
      const given = this.#given[c]!;
      const made = this.#made[c]!;
      const to = output[c]!;
      made.push(to, 0, frames);
      for (let n = 0; n < frames; n++) to[n] = given.samples[n]! - made.samples[n]!;
      given.shift(frames);
      made.shift(frames);
    }
  }

  reset(): void {
    this.turn.reset();
    for (const line of [...this.#given, ...this.#made]) line.reset();
  }
}
