import type { SessionDocument, Span } from '@euphonos/engine';
import { endOf } from '@euphonos/engine';
import { useEffect } from 'react';
import { activeTrack } from '../../../store/session-slice.js';
import { useApp } from '../../../store/store.js';
import { useWholeProfile, useWorkbench } from '../../../workbench/workbench-context.js';

/** Measured this long after the last change. */
const SETTLE_MS = 400;

/** While somebody looks at the chain on the whole, what it does is measured: in the loop, or the first minute. */
export function useWholeEffects(document: SessionDocument, looking: boolean): void {
  const workbench = useWorkbench();
  const profile = useWholeProfile();
  const loop = useApp(({ session, listening }) => (listening.looping ? (activeTrack(session)?.loop ?? null) : null));
  useEffect(() => {
    if (!looking || document.chain.treatments.length === 0) return undefined;
    let wanted = true;
    const span: Span = loop ?? { startFrame: 0, endFrame: Math.max(...document.tracks.map(({ clips }) => endOf(clips))) };
    const timer = setTimeout(() => {
      workbench.mixing.wholeEffects(document, span).then(
        (effects) => wanted && workbench.setWholeEffects(effects),
        // What cannot be measured is told where it is heard.
        () => undefined,
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [workbench, document, looking, loop, profile]);
}
