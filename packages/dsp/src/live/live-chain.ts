import { needsProfile, parametersOf, type ChainSpec, type TreatmentSettings } from '../chain/chain-spec.js';
import { moveStages } from '../chain/move-stages.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { inBackground, type ParameterValues, type TreatmentProcessor } from '../treatments/definition.js';
import { treatmentOf, type TreatmentKind } from '../treatments/registry.js';

/** What is different of a treatment while the microphone is heard at once. */
export interface LiveNote {
  readonly kind: TreatmentKind;
  readonly title: string;
  /** False: it is not heard live, only in what was recorded. */
  readonly heard: boolean;
  readonly note: string;
}

/** A treatment that works on times of the recording, or too late and too much at once, has nothing to do on a microphone. */
const TIMES = 'Works on what was recorded: it is heard there.';

const formOf = (settings: TreatmentSettings): { readonly heard: boolean; readonly note: string | null } => {
  const definition = treatmentOf(settings.kind);
  if (definition.live) return { heard: definition.live.create !== undefined, note: definition.live.note };
  if (inBackground(definition, parametersOf(settings))) return { heard: false, note: TIMES };
  return { heard: true, note: null };
};

/** What differs of a chain while it is heard live, in its order. */
export const liveNotes = ({ treatments }: ChainSpec): LiveNote[] =>
  treatments.flatMap((settings) => {
    const { heard, note } = formOf(settings);
    return settings.bypassed || note === null ? [] : [{ kind: settings.kind, title: treatmentOf(settings.kind).title, heard, note }];
  });

/** What its live form is given of a treatment. */
const liveValues = (settings: TreatmentSettings): ParameterValues => {
  const values = parametersOf(settings);
  return (treatmentOf(settings.kind).live?.values?.(values) as ParameterValues | undefined) ?? values;
};

/** What sounds of a chain on a microphone: not bypassed, heard live, and with a profile where it needs one. */
const sounding = ({ treatments }: ChainSpec, hasProfile: boolean): TreatmentSettings[] =>
  treatments.filter((settings) => !settings.bypassed && formOf(settings).heard && (hasProfile || !needsProfile(settings)));

/**
 * A chain on a microphone that is heard at once: every treatment in its live form, those that have none left out. What is recorded is
 * treated by the chain itself afterwards.
 */
export class LiveChain implements Processor {
  readonly latencyFrames: number;
  readonly #stages: readonly TreatmentProcessor[];
  #settings: readonly TreatmentSettings[];

  constructor(
    private readonly context: ProcessorContext,
    spec: ChainSpec,
  ) {
    this.#settings = sounding(spec, context.noiseProfile !== undefined);
    this.#stages = this.#settings.map((settings) => {
      const definition = treatmentOf(settings.kind);
      return (definition.live?.create ?? definition.create)(context, liveValues(settings));
    });
    this.latencyFrames = this.#stages.reduce((sum, { latencyFrames }) => sum + latencyFrames, 0);
  }

  /** Moves to other values without a click; false when a new chain is needed. */
  setParameters(spec: ChainSpec): boolean {
    const next = sounding(spec, this.context.noiseProfile !== undefined);
    if (!moveStages(this.#stages, this.#settings, next, liveValues)) return false;
    this.#settings = next;
    return true;
  }

  /** What a treatment of a kind does to the level at this moment, dB; null where none sounds or it does not tell. */
  nowDb(kind: TreatmentKind): number | null {
    return this.#stages[this.#settings.findIndex((settings) => settings.kind === kind)]?.nowDb ?? null;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    if (this.#stages.length === 0)
      for (let c = 0; c < output.length; c++) if (input[c] !== output[c]) output[c]!.set(input[c]!.subarray(0, frames));
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
