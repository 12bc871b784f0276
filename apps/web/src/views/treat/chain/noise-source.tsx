import { spanFrames, type Clip } from '@euphonos/engine';
import { useSyncExternalStore } from 'react';
import { formatTime } from '../../../components/figures.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** Where the noise profile comes from, or how to get one. */
export function NoiseSource({ clip }: { readonly clip: Clip }) {
  const workbench = useWorkbench();
  const ready = useSyncExternalStore(workbench.subscribe, () => workbench.hasProfile);
  const { noisePassage } = clip;
  const { sampleRateHz, view } = workbench;
  if (!noisePassage)
    return (
      <p className="m-0 mb-1 rounded-sheet border border-dashed border-removed px-2 py-1 text-[12px]">
        No noise profile yet, so it does nothing. Drag over a stretch with noise alone (a second or two, no breath in it) and press <span className="key">N</span>.
      </p>
    );
  return (
    <p className="m-0 mb-1 text-[12px]" data-profile={ready ? 'ready' : 'coming'}>
      {ready ? 'Profile from' : 'Taking the profile from'}{' '}
      <button type="button" className="text-removed underline decoration-dotted" title="Show it" onClick={() => view.show(noisePassage.startFrame, noisePassage.endFrame)}>
        {formatTime(noisePassage.startFrame / sampleRateHz, 2)}, {(spanFrames(noisePassage) / sampleRateHz).toFixed(2)} s
      </button>
    </p>
  );
}
