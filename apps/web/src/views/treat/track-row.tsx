import { Lock, LockOpen } from 'lucide-react';
import { clipChosen, activeClip, edited } from '../../store/session-slice.js';
import { changed } from '../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

/** The tracks of a scene: which one is worked on, what each knows of its noise, and which keep that. Nothing for a single track. */
export function TrackRow() {
  const session = useApp((state) => state.session)!;
  const dispatch = useAppDispatch();
  const { tracks } = session.history!.present;
  const active = activeClip(session)!;
  if (tracks.length < 2) return null;
  return (
    <div role="group" aria-label="Tracks" className="flex flex-wrap items-center gap-1.5 text-[12px]">
      {tracks.map((track) => {
        const clip = track.clips[0];
        if (!clip) return null;
        const chosen = track.clips.includes(active);
        const words = clip.noise === null ? 'no profile' : clip.noise.kind === 'kept' ? clip.noise.name : 'profiled';
        return (
          <span key={track.id} className={`flex items-center rounded-sheet border ${chosen ? 'border-ink bg-sheet' : 'border-line'}`}>
            <button
              type="button" aria-pressed={chosen} className="flex items-baseline gap-1.5 px-2 py-0.5"
              onClick={() => {
                dispatch(clipChosen(clip.id));
                dispatch(changed({ selection: null, aside: null, candidate: null }));
              }}
            >
              <b className={chosen ? 'font-semibold' : 'font-normal'}>{track.name}</b> <span className={clip.noise ? 'text-removed' : 'text-soft'}>{words}</span>
            </button>
            <button
              type="button" aria-pressed={clip.noiseHeld} aria-label={`Hold the noise profile of ${track.name}`} title={clip.noiseHeld ? 'Held: it keeps its profile when all tracks are profiled' : 'Hold its profile when all tracks are profiled'}
              className={`px-1.5 ${clip.noiseHeld ? 'text-removed' : 'text-soft hover:text-ink'}`}
              onClick={() => dispatch(edited({ type: 'hold-noise', clipId: clip.id, held: !clip.noiseHeld }))}
            >
              {clip.noiseHeld ? <Lock size={12} /> : <LockOpen size={12} />}
            </button>
          </span>
        );
      })}
    </div>
  );
}
