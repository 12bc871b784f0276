import {
  findTreatment,
  measurePrice,
  needsProfile,
  parametersOf,
  type ChainSpec,
  type PlanarBlock,
  type PriceCurve,
  type ProcessorContext,
} from '@euphonos/dsp';
import { runThrough } from './run-through.js';

/** The trade-off of the first noise reduction of a chain. */
export interface ChainPrice extends PriceCurve {
  /** `losses` are in frames of the recording. */
  readonly treatmentId: string;
}

/**
 * What the first sounding noise reduction of a chain takes and costs at every depth, in a passage that starts
 * `leadFrames` after input[0], heard through what stands before it. Null when there is none, or no profile for it.
 */
export function priceOf(context: ProcessorContext, { treatments }: ChainSpec, input: PlanarBlock, leadFrames: number): ChainPrice | null {
  const sounding = treatments.filter(({ bypassed }) => !bypassed);
  const place = sounding.findIndex(({ kind }) => findTreatment(kind)!.needsNoiseProfile);
  const settings = sounding[place];
  if (!settings || (needsProfile(settings) && !context.noiseProfile)) return null;
  const sound = runThrough(context, { treatments: sounding.slice(0, place) }, input);
  const price = measurePrice(context, parametersOf(settings) as never, sound, leadFrames);
  const at = (context.startFrame ?? 0) + leadFrames;
  const losses = price.losses.map(({ startFrame, endFrame, lossDb }) => ({ startFrame: at + startFrame, endFrame: at + endFrame, lossDb }));
  return { ...price, treatmentId: settings.id ?? settings.kind, losses };
}
