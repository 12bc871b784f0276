import { needsProfile, settingNames, treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import type { Track } from '@euphonos/engine';

/** Whether a setting holds what is suggested: the same, or of a list of rows (bands of tone) every one of them. */
function holds(has: unknown, suggested: unknown): boolean {
  if (!Array.isArray(suggested) || typeof suggested[0] !== 'object') return JSON.stringify(has) === JSON.stringify(suggested);
  const rows = (has as unknown[]).map((row) => JSON.stringify(row));
  return suggested.every((row) => rows.includes(JSON.stringify(row)));
}

/** Whether the chain does what a survey suggests: a treatment of that kind sounds, set like that. */
export function isTaken({ chain, noise }: Pick<Track, 'chain' | 'noise'>, suggestion: TreatmentSettings): boolean {
  const definition = treatmentOf(suggestion.kind);
  if (needsProfile(suggestion) && !noise) return false;
  return chain.treatments.some(
    (treatment) =>
      treatment.kind === suggestion.kind &&
      !treatment.bypassed &&
      settingNames(definition).every((name) => holds(treatment[name], suggestion[name])),
  );
}
