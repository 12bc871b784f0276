import { useEffect, useState } from 'react';
import type { Span } from '@euphonos/engine';
import type { MixSpectra } from '../../../passage/mix-spectra.js';
import type { Scope } from '../../../workbench/scope.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** Measured this long after the last change. */
const SETTLE_MS = 500;

/** Long-term spectra of what is looked at; null while they are measured, or where nothing is asked for. */
export function useSpectra(
  scope: Scope | null,
  span: Span | null,
): { readonly spectra: MixSpectra | null; readonly stale: boolean; readonly trouble: string | null } {
  const { mixing } = useWorkbench();
  type Found = { readonly of: Scope; readonly at: Span | null; readonly spectra: MixSpectra | null; readonly trouble: string | null };
  const [found, setFound] = useState<Found | null>(null);
  useEffect(() => {
    if (!scope) return undefined;
    let wanted = true;
    const timer = setTimeout(() => {
      const put = (spectra: MixSpectra | null, trouble: string | null): void => {
        if (wanted) setFound({ of: scope, at: span, spectra, trouble });
      };
      mixing.spectra(scope.document, span ?? scope.span).then(
        (spectra) => put(spectra, null),
        (error: unknown) => put(null, error instanceof Error ? error.message : String(error)),
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [mixing, scope, span]);
  const shown = scope && found?.of.words === scope.words ? found : null;
  return { spectra: shown?.spectra ?? null, stale: shown?.of !== scope || shown?.at !== span, trouble: shown?.trouble ?? null };
}
