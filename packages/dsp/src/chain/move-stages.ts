import type { ParameterValues, TreatmentProcessor } from '../treatments/definition.js';
import { parametersOf, type TreatmentSettings } from './chain-spec.js';
import { sameValues } from './same-values.js';

/**
 * Moves the stages of a chain from the settings that they have to others, without a click. False when the order, the number of treatments or
 * something inside one differs so much that new stages are needed.
 * @param valuesOf what a stage is given of its settings
 */
export function moveStages(
  stages: readonly TreatmentProcessor[],
  before: readonly TreatmentSettings[],
  next: readonly TreatmentSettings[],
  valuesOf: (settings: TreatmentSettings) => ParameterValues = parametersOf,
): boolean {
  if (next.length !== before.length || next.some(({ kind }, i) => kind !== before[i]!.kind)) return false;
  // Most of the time one control of one treatment moves: the others are left alone, which costs the audio thread nothing.
  return next.every((settings, i) => sameValues(settings, before[i]!) || stages[i]!.setParameters(valuesOf(settings)));
}
