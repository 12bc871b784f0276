import { asPauses, evenLevels, findPauses, type ListRow, type PauseRules, type SettingValue, type TreatmentSettings } from '@euphonos/dsp';
import { useEffect, useMemo, useState } from 'react';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import { useFindings } from '../../../survey/use-survey.js';

/** What decides where pauses are. */
const RULES = new Set(['openDbfs', 'closeDbfs', 'shortestWordMs', 'decides']);

/** Levels of the recording, evened out; null until they are there. */
export function useLevels(wanted: boolean): { readonly levels: Float32Array; readonly stepSeconds: number } | null {
  const workbench = useWorkbench();
  const [levels, setLevels] = useState<{ readonly levels: Float32Array; readonly stepSeconds: number } | null>(null);
  useEffect(() => {
    if (!wanted) return undefined;
    let current = true;
    workbench.levels().then(
      (track) => current && setLevels({ levels: evenLevels(track), stepSeconds: track.stepSeconds }),
      () => undefined,
    );
    return () => void (current = false);
  }, [workbench, wanted]);
  return levels;
}

/** Where the survey hears nobody talk; null until it is there. */
export function useQuiet() {
  const findings = useFindings();
  return useMemo(() => findings?.flatMap((finding) => (finding.kind === 'pauses' ? finding.spans : [])) ?? null, [findings]);
}

/** The pauses that rules find; what was excepted stays so. */
export function foundRows(
  levels: Float32Array,
  stepSeconds: number,
  quiet: readonly { readonly startSeconds: number; readonly endSeconds: number }[],
  rules: PauseRules,
  before: readonly ListRow[],
): ListRow[] {
  const left = asPauses(before)
    .filter(({ state }) => state === 'leave')
    .map(({ startSeconds, endSeconds }) => (startSeconds + endSeconds) / 2);
  return findPauses(levels, stepSeconds, quiet, rules).map((span) => ({
    ...span,
    state: left.some((at) => at >= span.startSeconds && at <= span.endSeconds) ? 'leave' : 'treat',
  }));
}

const quietOf = (
  quiet: readonly { readonly startSeconds: number; readonly endSeconds: number }[],
): Readonly<Record<string, SettingValue>> => ({ quiet: quiet.map(({ startSeconds, endSeconds }) => ({ startSeconds, endSeconds })) });

/** What else changes with a setting: what decides where pauses are finds them anew, while it moves; a gate learns where nobody talks. */
export function useFoundPauses(
  settings: TreatmentSettings,
): (name: string, value: SettingValue) => Readonly<Record<string, SettingValue>> | null {
  const own = settings.kind === 'pauses';
  const levels = useLevels(own);
  const quiet = useQuiet();
  return (name, value) => {
    // A gate that is to listen to talk is told where nobody talks.
    if (settings.kind === 'gate' && name === 'listens' && (value === 'talk' || value === 'words') && quiet) return quietOf(quiet);
    if (!own || !RULES.has(name) || !levels || !quiet || (settings['pauses'] as readonly ListRow[]).length === 0) return null;
    const moved = { ...settings, [name]: value } as unknown as PauseRules;
    // As the settings will be: the other threshold gives way.
    const rules = {
      ...moved,
      openDbfs: name === 'closeDbfs' ? Math.max(moved.openDbfs, moved.closeDbfs) : moved.openDbfs,
      closeDbfs: name === 'openDbfs' ? Math.min(moved.openDbfs, moved.closeDbfs) : moved.closeDbfs,
    };
    return { pauses: foundRows(levels.levels, levels.stepSeconds, quiet, rules, settings['pauses'] as readonly ListRow[]) };
  };
}
