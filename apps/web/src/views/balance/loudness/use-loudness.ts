import { useEffect, useState } from 'react';
import type { MixLoudness } from '../../../passage/balance-levels.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import type { Scope } from '../../../workbench/scope.js';

/** Measured this long after the last change: after the tracks by themselves. */
const SETTLE_MS = 700;

/** Loudness over time of what is shown; null while it is measured for the first time. */
export function useLoudness(scope: Scope): { readonly loudness: MixLoudness | null; readonly stale: boolean } {
  const { mixing } = useWorkbench();
  const [found, setFound] = useState<{ readonly of: Scope; readonly loudness: MixLoudness } | null>(null);
  useEffect(() => {
    let wanted = true;
    const timer = setTimeout(() => {
      mixing.mixLoudness(scope.document).then(
        (loudness) => wanted && setFound({ of: scope, loudness }),
        // What cannot be measured is told with the tracks.
        () => undefined,
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [mixing, scope]);
  const shown = found?.of.key === scope.key ? found : null;
  return { loudness: shown?.loudness ?? null, stale: shown?.of !== scope };
}
