import type { Span } from '@euphonos/engine';
import { useMemo } from 'react';
import type { MixSpectra } from '../../../passage/mix-spectra.js';
import type { Scope } from '../../../workbench/scope.js';
import { useSettled } from '../../../workbench/use-settled.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** Measured this long after the last change. */
const SETTLE_MS = 500;

/** Long-term spectra of what is looked at, or of a span of it; null while they are measured, or where nothing is asked for. */
export function useSpectra(
  scope: Scope | null,
  span: Span | null,
): { readonly spectra: MixSpectra | null; readonly stale: boolean; readonly trouble: string | null } {
  const { mixing } = useWorkbench();
  const of = useMemo(() => scope && { scope, span: span ?? scope.span }, [scope, span]);
  const settled = useSettled(of, SETTLE_MS, (asked) => mixing.spectra(asked.scope.document, asked.span));
  const shown = scope && settled?.of.scope.words === scope.words ? settled : null;
  return { spectra: shown?.found ?? null, stale: shown?.of !== of, trouble: shown?.trouble ?? null };
}
