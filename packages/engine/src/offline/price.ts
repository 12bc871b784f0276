import { findTreatment, measurePrice, needsProfile, parametersOf, type ChainSpec, type PlanarBlock, type PriceCurve, type ProcessorContext } from '@euphonos/dsp';
import { runThrough } from './run-through.js';

/** The trade-off of the first noise reduction of a chain. */
export interface ChainPrice extends PriceCurve {
  readonly treatmentId: string;
}

/**
 * What the first sounding noise reduction of a chain takes and costs at every depth, in a passage that starts
 * `leadFrames` after input[0], heard through what stands before it. Null when there is none, or no profile for it.
 */
export function priceOf(context: ProcessorContext, { treatments }: ChainSpec, input: PlanarBlock, leadFrames: number): ChainPrice | null {
  const sounding = treatments.filter(({ bypassed }) => !bypassed);
  const at = sounding.findIndex(({ kind }) => findTreatment(kind)!.needsNoiseProfile);
  const settings = sounding[at];
  if (!settings || (needsProfile(settings) && !context.noiseProfile)) return null;
  const sound = runThrough(context, { treatments: sounding.slice(0, at) }, input);
  return { treatmentId: settings.id ?? settings.kind, ...measurePrice(context, parametersOf(settings) as never, sound, leadFrames) };
}
