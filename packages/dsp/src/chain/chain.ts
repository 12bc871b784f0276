import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import type { TreatmentProcessor } from '../treatments/definition.js';
import { findTreatment } from '../treatments/registry.js';
import { parametersOf, type ChainSpec, type TreatmentSettings } from './chain-spec.js';

/** The treatments of a spec that sound: not bypassed, and not waiting for a profile that is missing. */
const sounding = (spec: ChainSpec, hasProfile: boolean) =>
  spec.treatments.filter(({ kind, bypassed }) => !bypassed && (hasProfile || !findTreatment(kind)!.needsNoiseProfile));

function sameValues(a: TreatmentSettings, b: TreatmentSettings): boolean {
  const { parameters, choices, lists } = findTreatment(a.kind)!;
  for (const name in parameters) if (a[name] !== b[name]) return false;
  for (const name in choices) if (a[name] !== b[name]) return false;
  for (const name in lists) if (a[name] !== b[name] && JSON.stringify(a[name]) !== JSON.stringify(b[name])) return false;
  return true;
}

/** Treatments in series. Bypassed ones are left out, and so is what needs a noise profile while there is none. */
export class Chain implements Processor {
  readonly latencyFrames: number;
  readonly #stages: TreatmentProcessor[];
  #settings: readonly TreatmentSettings[];

  constructor(
    private readonly context: ProcessorContext,
    spec: ChainSpec,
  ) {
    const active = sounding(spec, context.noiseProfile !== undefined);
    this.#settings = active;
    this.#stages = active.map((settings) => findTreatment(settings.kind)!.create(context, parametersOf(settings)));
    this.latencyFrames = this.#stages.reduce((sum, stage) => sum + stage.latencyFrames, 0);
  }

  /**
   * Moves to the parameters of another spec without a click. False when the order, the number of
   * treatments or something inside one differs so much that a new chain is needed.
   */
  setParameters(spec: ChainSpec): boolean {
    const active = sounding(spec, this.context.noiseProfile !== undefined);
    const before = this.#settings;
    if (active.length !== before.length || active.some(({ kind }, i) => kind !== before[i]!.kind)) return false;
    // Most of the time one control of one treatment moves: the others are left alone, which costs the audio thread nothing.
    if (!active.every((settings, i) => sameValues(settings, before[i]!) || this.#stages[i]!.setParameters(parametersOf(settings)))) return false;
    this.#settings = active;
    return true;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    if (this.#stages.length === 0) {
      for (let c = 0; c < output.length; c++)
        if (input[c] !== output[c]) for (let n = 0; n < frames; n++) output[c]![n] = input[c]![n]!;
      return;
    }
    let from = input;
    for (const stage of this.#stages) {
      stage.process(from, output, frames);
      from = output;
    }
  }

  reset(): void {
    for (const stage of this.#stages) stage.reset();
  }
}
