import { inBackground, parametersOf, parseChain, treatmentOf, type ChainSpec, type TreatmentSettings } from '@euphonos/dsp';

/** A chain in two: what is rendered in the background, and what follows it in the audio clock. */
export interface SplitChain {
  readonly prepared: ChainSpec;
  readonly live: ChainSpec;
}

function isPrepared(settings: TreatmentSettings): boolean {
  const definition = treatmentOf(settings.kind);
  const values = parametersOf(settings);
  return !settings.bypassed && inBackground(definition, values) && !definition.idle?.(values);
}

/**
 * Everything up to the last treatment that cannot run in the audio clock is rendered in the background; the rest moves
 * under the hand. `prepared` is empty when all of it can run live.
 */
export function splitChain(spec: ChainSpec): SplitChain {
  const last = spec.treatments.findLastIndex(isPrepared);
  const sounding = (treatments: readonly TreatmentSettings[]): ChainSpec => ({ treatments });
  const prepared = sounding(spec.treatments.slice(0, last + 1).filter(({ bypassed }) => !bypassed));
  const live = sounding(spec.treatments.slice(last + 1));
  if (spec.alone === undefined) return { prepared, live };
  // What one treatment takes out, alone: nothing after it matters.
  if (prepared.treatments.some(({ id }) => id === spec.alone))
    return { prepared: { ...prepared, alone: spec.alone }, live: { treatments: [] } };
  return { prepared, live: { ...live, alone: spec.alone } };
}

/** A chain that lets what one treatment takes out be heard alone: nothing, when it is bypassed or gone. */
export function aloneChain(spec: ChainSpec, treatmentId: string): ChainSpec {
  const at = spec.treatments.findIndex(({ id }) => id === treatmentId);
  if (at < 0 || spec.treatments[at]!.bypassed) return { treatments: [], alone: treatmentId };
  return { treatments: spec.treatments.slice(0, at + 1), alone: treatmentId };
}

/** A chain that ends in a narrow band: for a sweep over the spectrum by ear. */
export function narrowBandChain(spec: ChainSpec, treatmentId: string, frequencyHz: number): ChainSpec {
  const at = spec.treatments.findIndex(({ id }) => id === treatmentId);
  const bands = [4, 4].map((q) => ({ shape: 'band-pass', frequencyHz: Math.round(frequencyHz), q }));
  return {
    treatments: [
      ...spec.treatments.slice(0, Math.max(0, at)),
      ...parseChain({ treatments: [{ kind: 'tone', id: treatmentId, bands }] }).treatments,
    ],
  };
}
