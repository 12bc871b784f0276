import { Lock, LockOpen } from 'lucide-react';
import { trackChosen, activeTrack, edited } from '../../store/session-slice.js';
import { changed } from '../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

/** The tracks of a scene: which one is worked on, what each knows of its noise, and which keep that. Nothing for a single track. */
export function TrackRow() {
  const session = useApp((state) => state.session)!;
  const dispatch = useAppDispatch();
  const { tracks } = session.history!.present;
  const active = activeTrack(session)!;
  if (tracks.length < 2) return null;
  return (
    <div role="group" aria-label="Tracks" className="flex flex-wrap items-center gap-1.5 text-[12px]">
      {tracks.map((track) => {
        const chosen = track === active;
        const words = track.noise === null ? 'no profile' : track.noise.kind === 'kept' ? track.noise.name : 'profiled';
        return (
          <span key={track.id} className={`flex items-center rounded-sheet border ${chosen ? 'border-ink bg-sheet' : 'border-line'}`}>
            <button
              type="button" aria-pressed={chosen} className="flex items-baseline gap-1.5 px-2 py-0.5"
              onClick={() => {
                dispatch(trackChosen(track.id));
                dispatch(changed({ selection: null, aside: null, candidate: null }));
              }}
            >
              <b className={chosen ? 'font-semibold' : 'font-normal'}>{track.name}</b> <span className={track.noise ? 'text-removed' : 'text-soft'}>{words}</span>
            </button>
            <button
              type="button" aria-pressed={track.noiseHeld} aria-label={`Hold the noise profile of ${track.name}`} title={track.noiseHeld ? 'Held: it keeps its profile when all tracks are profiled' : 'Hold its profile when all tracks are profiled'}
              className={`px-1.5 ${track.noiseHeld ? 'text-removed' : 'text-soft hover:text-ink'}`}
              onClick={() => dispatch(edited({ type: 'hold-noise', trackId: track.id, held: !track.noiseHeld }))}
            >
              {track.noiseHeld ? <Lock size={12} /> : <LockOpen size={12} />}
            </button>
          </span>
        );
      })}
    </div>
  );
}
