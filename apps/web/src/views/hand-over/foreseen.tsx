import { endOf, foresee, mixedTracks, type Level, type SessionDocument } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { Notice } from '../../components/notice.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Of more sound than this, all tracks together, nothing is foreseen: measuring it would cost more than the render, which tells it. */
const MOST_SECONDS = 1800;
/** Measured this long after the last change. */
const SETTLE_MS = 600;

/** What of the target a gain and the limiter will not meet, said before anything is rendered. */
export function Foreseen({ document }: { readonly document: SessionDocument }) {
  const { mixing } = useWorkbench();
  const [level, setLevel] = useState<Level | null>(null);
  const { tracks, chain, wholeNoise, target } = document;
  useEffect(() => {
    const frames = mixedTracks(document).reduce((sum, { clips }) => sum + endOf(clips), 0);
    if (frames === 0 || frames > MOST_SECONDS * document.sampleRateHz) return setLevel(null);
    let wanted = true;
    const timer = setTimeout(() => {
      mixing.mixLoudness(document).then(
        (found) => wanted && setLevel(found.level),
        // What cannot be measured now is measured by the render.
        () => undefined,
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a mark or a target is nothing to the sound
  }, [mixing, tracks, chain, wholeNoise]);
  const found = level
    ? foresee(
        level,
        target,
        tracks.some(({ role, muted }) => role === 'bed' && !muted),
      )
    : [];
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
