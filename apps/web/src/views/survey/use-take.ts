import type { Finding } from '@euphonos/dsp';
import { activeTrack, edited } from '../../store/session-slice.js';
import { store, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { inWords } from '@euphonos/engine';
import { isTaken } from './is-taken.js';

/** The track of that id as it is now; without one, the one that is worked on. */
function trackNow(trackId: string | undefined) {
  const { session } = store.getState();
  return session?.history?.present.tracks.find(({ id }) => id === trackId) ?? activeTrack(session);
}

/** Puts what is suggested into the chain of a track, each an undoable step; a noise profile comes with noise reduction. Returns how many. */
export function useTake() {
  const dispatch = useAppDispatch();
  const { sampleRateHz, recordingFrames } = useWorkbench();
  return (taken: readonly Finding[], all: readonly Finding[], trackId?: string): number => {
    let count = 0;
    for (const finding of taken) {
      const track = trackNow(trackId);
      // One treatment may mend what several channels have.
      if (!track || !finding.suggestion || isTaken(track, finding.suggestion)) continue;
      count++;
      const treatmentId = crypto.randomUUID();
      const { title } = inWords(finding);
      dispatch(edited({ type: 'take-suggestion', trackId: track.id, treatmentId, title, settings: finding.suggestion }));
      const passages = all.find((other): other is Finding & { kind: 'noise-passages' } => other.kind === 'noise-passages');
      const best = passages?.spans[0];
      if (finding.suggestion.kind === 'noise-reduction' && !track.noise && best) {
        const frame = (at: number): number => Math.max(0, Math.min(recordingFrames, Math.round(at * sampleRateHz)));
        dispatch(
          edited({
            type: 'set-noise',
            trackId: track.id,
            noise: { kind: 'passages', spans: [{ startFrame: frame(best.startSeconds), endFrame: frame(best.endSeconds) }] },
          }),
        );
      }
    }
    return count;
  };
}
