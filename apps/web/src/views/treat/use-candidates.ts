import type { NoisePassage } from '@euphonos/dsp';
import type { Span } from '@euphonos/engine';
import { useMemo } from 'react';
import { changed } from '../../store/listening-slice.js';
import { store, useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useFindings } from '../survey/use-survey.js';

/** A found passage is shown with this much of what is around it, in its own lengths. */
const AROUND = 1.5;

export interface Candidate {
  readonly passage: NoisePassage;
  readonly span: Span;
}

/** The passages with noise alone that the survey found, best first, and how to step through them. */
export function useCandidates() {
  const at = useApp(({ listening }) => listening.candidate);
  const findings = useFindings();
  const { view, player, places } = useWorkbench();
  const dispatch = useAppDispatch();
  const candidates = useMemo((): readonly Candidate[] | null => {
    if (!findings) return null;
    return findings.flatMap((finding) =>
      finding.kind === 'noise-passages'
        ? finding.spans.flatMap((passage) =>
            places
              .ofSeconds(passage)
              .slice(0, 1)
              .map((span) => ({ passage, span })),
          )
        : [],
    );
  }, [findings, places]);

  /** Selects the next or the previous one; what is heard for once follows. */
  const step = (by: 1 | -1): void => {
    if (!candidates || candidates.length === 0) return;
    const { candidate, auditioning } = store.getState().listening;
    const next = candidate === null ? (by > 0 ? 0 : candidates.length - 1) : (candidate + by + candidates.length) % candidates.length;
    const { span } = candidates[next]!;
    dispatch(changed({ candidate: next, selection: span, band: null }));
    const length = span.endFrame - span.startFrame;
    view.show(span.startFrame - AROUND * length, span.endFrame + AROUND * length);
    if (auditioning) player.seek(span.startFrame);
  };

  return { candidates, at, step };
}
