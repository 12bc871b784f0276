import type { MixLoudness } from '../../../passage/balance-levels.js';
import type { Scope } from '../../../workbench/scope.js';
import { useSettled } from '../../../workbench/use-settled.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** Measured this long after the last change: after the tracks by themselves. */
const SETTLE_MS = 700;

/** Loudness over time of what is shown; null while it is measured for the first time. */
export function useLoudness(scope: Scope): {
  readonly loudness: MixLoudness | null;
  readonly stale: boolean;
  readonly trouble: string | null;
} {
  const { mixing } = useWorkbench();
  const settled = useSettled(scope, SETTLE_MS, ({ document }) => mixing.mixLoudness(document));
  const shown = settled?.of.key === scope.key ? settled : null;
  return { loudness: shown?.found ?? null, stale: shown?.of !== scope, trouble: shown?.trouble ?? null };
}
