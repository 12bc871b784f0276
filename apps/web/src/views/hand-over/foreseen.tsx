import { endOf, foresee, mixedTracks, type SessionDocument } from '@euphonos/engine';
import { useMemo } from 'react';
import { Notice } from '../../components/notice.js';
import { useSettled } from '../../workbench/use-settled.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Of more sound than this, all tracks together, nothing is foreseen: measuring it would cost more than the render, which tells it. */
const MOST_SECONDS = 1800;
/** Measured this long after the last change. */
const SETTLE_MS = 600;

/** What of the target a gain and the limiter will not meet, said before anything is rendered. */
export function Foreseen({ document }: { readonly document: SessionDocument }) {
  const { mixing } = useWorkbench();
  const { tracks, chain, wholeNoise, target, sampleRateHz } = document;
  // A mark or a target is nothing to the sound.
  const sound = useMemo(() => {
    const frames = mixedTracks({ tracks }).reduce((sum, { clips }) => sum + endOf(clips), 0);
    return frames === 0 || frames > MOST_SECONDS * sampleRateHz ? null : { tracks, chain, wholeNoise };
  }, [tracks, chain, wholeNoise, sampleRateHz]);
  const settled = useSettled(sound, SETTLE_MS, (of) => mixing.mixLoudness({ ...document, ...of }));
  // What cannot be measured now is measured by the render.
  const level = sound && settled?.found ? settled.found.level : null;
  const bed = tracks.some(({ role, muted }) => role === 'bed' && !muted);
  const found = level ? foresee(level, target, bed) : [];
  return (
    <div className="mt-3 flex flex-col gap-1 text-[12px]" data-foreseen={level ? found.length : 'measuring'}>
      {found.map(({ title, words }) => (
        <Notice key={title} tone="word">
          {words}
        </Notice>
      ))}
    </div>
  );
}
