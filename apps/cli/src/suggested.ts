import { treatments, type Finding, type TreatmentSettings } from '@euphonos/dsp';

/** What mends the findings of a file, one treatment of a kind, in the usual order of work. */
export function suggestedChain(findings: readonly Finding[]): { readonly treatments: readonly TreatmentSettings[] } {
  const wanted = new Map<string, TreatmentSettings>();
  for (const { suggestion } of findings) if (suggestion && !wanted.has(suggestion.kind)) wanted.set(suggestion.kind, suggestion);
  return { treatments: treatments.flatMap(({ kind }) => wanted.get(kind) ?? []) };
}
