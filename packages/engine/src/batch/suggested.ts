import { needsProfile, treatments, type ChainSpec, type Finding, type NoisePassage, type TreatmentSettings } from '@euphonos/dsp';
import type { CheckLine } from '../delivery/check-sheet.js';
import { certaintyWord, inWords } from '../words/finding-words.js';
import { formatNumber } from '../words/figures.js';

/** What mends the findings of a recording, one treatment of a kind, in the usual order of work. */
export function suggestedChain(findings: readonly Finding[]): ChainSpec {
  const wanted = new Map<string, TreatmentSettings>();
  for (const { suggestion } of findings) if (suggestion && !wanted.has(suggestion.kind)) wanted.set(suggestion.kind, suggestion);
  return { treatments: treatments.flatMap(({ kind }) => wanted.get(kind) ?? []) };
}

/** A passage that is less steady than this is not noise alone for sure; what is less certain than this should be heard. Common practice, no source. */
const STEADY_DB = 3;
const SURE = 0.65;

/** A chain as a recording gets it of its own, with the noise that it weighs by, and what of that somebody should hear. */
export interface Prepared {
  readonly chain: ChainSpec;
  /** Passage with noise alone; null where none is needed, or none was found. */
  readonly passage: NoisePassage | null;
  readonly needsEar: readonly string[];
}

/**
 * Makes a chain ready for a recording that nobody has looked at.
 * @param chain null: what its own survey suggests
 * @param profiled it weighs by a profile that was kept
 */
export function prepare(chain: ChainSpec | null, findings: readonly Finding[], profiled: boolean): Prepared {
  const needsEar: string[] = [];
  const made = chain ?? suggestedChain(findings);
  if (!chain)
    for (const finding of findings)
      if (finding.suggestion && finding.certainty < SURE && made.treatments.includes(finding.suggestion))
        needsEar.push(
          `${inWords(finding).title}: ${certaintyWord(finding.certainty)} only (${formatNumber(100 * finding.certainty, 0)} %), and treated.`,
        );
  const weighs = made.treatments.some((settings) => !settings.bypassed && needsProfile(settings));
  if (!weighs || profiled) return { chain: made, passage: null, needsEar };
  const passage = findings.flatMap((finding) => (finding.kind === 'noise-passages' ? finding.spans : []))[0] ?? null;
  if (!passage) {
    needsEar.push('Nowhere is noise alone for half a second: its noise is tracked instead of profiled.');
    return { chain: { treatments: made.treatments.map(tracked) }, passage, needsEar };
  }
  if (passage.withinDb > STEADY_DB)
    needsEar.push(`Its noise is steady within ${formatNumber(passage.withinDb, 1)} dB only, where the profile is taken.`);
  return { chain: made, passage, needsEar };
}

const tracked = (settings: TreatmentSettings): TreatmentSettings => (needsProfile(settings) ? { ...settings, mode: 'tracked' } : settings);

/** What of a sheet is missed, in words. */
export const missesOf = (sheet: readonly CheckLine[]): string[] =>
  sheet
    .filter(({ passed }) => passed === false)
    .map(
      ({ title, after, unit, asked }) =>
        `${title}: ${after === null ? 'not measured' : `${formatNumber(after, 1)} ${unit}`}, ${asked} is asked.`,
    );
