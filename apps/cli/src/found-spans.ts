import {
  breathRow,
  evenLevels,
  findPauses,
  LevelTracker,
  parseChain,
  suggestPauseThresholds,
  type ChainSpec,
  type Finding,
  type PauseRules,
  type SpanSeconds,
  type TreatmentSettings,
} from '@euphonos/dsp';
import { decodeSound, newReport } from '@euphonos/media';
import { chainOf } from './chain-of.js';
import type { SoundPart } from './noise.js';
import { findingsOf } from './survey.js';

const spansOf = (findings: readonly Finding[], kind: 'pauses' | 'noise-passages'): readonly SpanSeconds[] =>
  findings.flatMap((finding) => (finding.kind === kind ? finding.spans : []));

/** The list of places of each treatment that has one to be found. */
const LISTS: Readonly<Record<string, string>> = { breaths: 'breaths', pauses: 'pauses', gate: 'quiet' };

/** Which settings a chain file gives itself, treatment by treatment. */
const given = (json: unknown, index: number): object => (json as { treatments: readonly object[] }).treatments[index] ?? {};

/**
 * A chain from its file; breaths and pauses that it wants treated without saying where they are get the places that the
 * survey finds, pauses with thresholds from the gaps unless the file has some. `note` says what was found.
 */
export async function readChain(json: unknown, sound: SoundPart, note: (text: string) => void): Promise<ChainSpec> {
  const chain = chainOf(json);
  const open = (settings: TreatmentSettings): boolean =>
    !settings.bypassed &&
    settings.kind in LISTS &&
    (settings[LISTS[settings.kind]!] as readonly unknown[]).length === 0 &&
    (settings.kind !== 'gate' || settings['listens'] === 'talk' || settings['listens'] === 'words');
  if (!chain.treatments.some(open)) return chain;
  const findings = await findingsOf(sound.path, sound.channels);
  const treatments: TreatmentSettings[] = [];
  for (const [i, settings] of chain.treatments.entries()) {
    if (!open(settings)) treatments.push(settings);
    else if (settings.kind === 'breaths') {
      const rows = findings.flatMap((finding) => (finding.kind === 'breaths' ? finding.spans.map(breathRow) : []));
      note(`breaths: ${rows.length} found.`);
      treatments.push({ ...settings, breaths: rows } as never);
    } else if (settings.kind === 'gate') {
      const quiet = spansOf(findings, 'pauses');
      note(`gate: ${quiet.length} stretches in which nobody talks.`);
      treatments.push({ ...settings, quiet } as never);
    } else treatments.push(await withPauses(settings, given(json, i), sound, spansOf(findings, 'pauses'), note));
  }
  return parseChain({ treatments });
}

async function withPauses(
  settings: TreatmentSettings,
  own: object,
  sound: SoundPart,
  quiet: readonly SpanSeconds[],
  note: (text: string) => void,
): Promise<TreatmentSettings> {
  const tracker = new LevelTracker(sound.facts.sampleRateHz);
  for await (const { channels, frames } of decodeSound(sound.path, sound.facts, { channels: sound.channels }, newReport()))
    tracker.process(channels, frames);
  const track = tracker.finish();
  const levels = evenLevels(track);
  const suggested = 'openDbfs' in own || 'closeDbfs' in own ? null : suggestPauseThresholds(levels, track.stepSeconds, quiet);
  const rules = { ...settings, ...(suggested ?? {}) } as unknown as PauseRules;
  const rows = findPauses(levels, track.stepSeconds, quiet, rules);
  note(
    `pauses: ${rows.length} found${suggested && settings['decides'] !== 'voice' ? `, words above ${suggested.openDbfs}, pauses below ${suggested.closeDbfs} dBFS` : ''}.`,
  );
  return { ...settings, ...(suggested ?? {}), pauses: rows } as never;
}
