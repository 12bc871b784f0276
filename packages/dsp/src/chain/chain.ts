import { DelayLine } from '../delay-line.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import type { ListRow, TreatmentProcessor } from '../treatments/definition.js';
import { findTreatment } from '../treatments/registry.js';
import { needsProfile, parametersOf, type ChainSpec, type TreatmentSettings } from './chain-spec.js';

/** The treatments of a spec that sound: not bypassed, and not waiting for a profile that is missing. */
const sounding = (spec: ChainSpec, hasProfile: boolean) =>
  spec.treatments.filter((settings) => !settings.bypassed && (hasProfile || !needsProfile(settings)));

/** Up to and with the treatment that is heard alone; all of them when none is, and none when that one does not sound. */
function upTo(active: readonly TreatmentSettings[], alone: string | undefined): readonly TreatmentSettings[] {
  const at = alone === undefined ? -1 : active.findIndex(({ id }) => id === alone);
  return alone === undefined ? active : active.slice(0, at + 1);
}

type Item = ListRow | number;

/** Whether two lists say the same: compared in place, as thousands of pauses come with every movement of a control. */
function sameRows(a: readonly Item[], b: readonly Item[]): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) {
    const x = a[i]!;
    const y = b[i]!;
    if (typeof x === 'number' || typeof y === 'number') {
      if (x !== y) return false;
    } else for (const field in x) if (x[field] !== y[field]) return false;
  }
  return true;
}

function sameValues(a: TreatmentSettings, b: TreatmentSettings): boolean {
  const { parameters, choices, lists } = findTreatment(a.kind)!;
  for (const name in parameters) if (a[name] !== b[name]) return false;
  for (const name in choices) if (a[name] !== b[name]) return false;
  for (const name in lists) if (a[name] !== b[name] && !sameRows(a[name] as readonly Item[], b[name] as readonly Item[])) return false;
  return true;
}

/** Treatments in series. Bypassed ones are left out, and so is what needs a noise profile while there is none. */
export class Chain implements Processor {
  readonly latencyFrames: number;
  readonly #stages: TreatmentProcessor[];
  /** By how much what each stage hears is late. */
  readonly #late: number[] = [];
  readonly #holdsTimes: boolean;
  #settings: readonly TreatmentSettings[];
  readonly #alone: string | undefined;
  /** For what one stage takes out: what goes into it, as late as it comes out. */
  readonly #before: DelayLine[] | null;

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
    this.#before =
      spec.alone !== undefined && last ? Array.from({ length: context.channels }, () => new DelayLine(last.latencyFrames)) : null;
    this.latencyFrames = late;
    this.#holdsTimes = this.#stages.some((stage) => stage.locate !== undefined);
  }

  /**
   * Moves to the parameters of another spec without a click. False when the order, the number of
   * treatments or something inside one differs so much that a new chain is needed.
   */
  setParameters(spec: ChainSpec): boolean {
    if (spec.alone !== this.#alone) return false;
    const active = upTo(sounding(spec, this.context.noiseProfile !== undefined), spec.alone);
    const before = this.#settings;
    if (active.length !== before.length || active.some(({ kind }, i) => kind !== before[i]!.kind)) return false;
    // Most of the time one control of one treatment moves: the others are left alone, which costs the audio thread nothing.
    if (!active.every((settings, i) => sameValues(settings, before[i]!) || this.#stages[i]!.setParameters(parametersOf(settings))))
      return false;
    this.#settings = active;
    return true;
  }

  /** Tells stages that hold times of the recording where they are: `frameAgo` gives the frame that came in so many frames before the next one. */
  locateStages(frameAgo: (frames: number) => number): void {
    if (!this.#holdsTimes) return;
    for (let i = 0; i < this.#stages.length; i++) this.#stages[i]!.locate?.(frameAgo(this.#late[i]!));
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
      if (this.#before && i === this.#stages.length - 1) for (let c = 0; c < output.length; c++) this.#before[c]!.push(from[c]!, 0, frames);
      this.#stages[i]!.process(from, output, frames);
      from = output;
    }
    if (this.#before) this.#takeOut(this.#before, output, frames);
  }

  #takeOut(before: readonly DelayLine[], output: PlanarBlock, frames: number): void {
    for (let c = 0; c < output.length; c++) {
      const line = before[c]!;
      const to = output[c]!;
      for (let n = 0; n < frames; n++) to[n] = line.samples[n]! - to[n]!;
      line.shift(frames);
    }
  }

  reset(): void {
    if (this.#before) for (const line of this.#before) line.reset();
    for (const stage of this.#stages) stage.reset();
  }
}
