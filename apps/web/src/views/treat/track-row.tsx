import { TRACK_GAIN_DB } from '@euphonos/engine';
import { Lock, LockOpen, Volume2, VolumeX } from 'lucide-react';
import { Choice } from '../../components/choice.js';
import { trackChosen, activeTrack, edited } from '../../store/session-slice.js';
import { changed } from '../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

/** The tracks of a scene: which one is worked on, what each knows of its noise, and which keep that. Nothing for a single track. */
export function TrackRow() {
  const session = useApp((state) => state.session)!;
  const dispatch = useAppDispatch();
  const { tracks } = session.history!.present;
  const together = useApp(({ listening }) => listening.together);
  const active = activeTrack(session)!;
  if (tracks.length < 2) return null;
  return (
    <div role="group" aria-label="Tracks" className="flex flex-wrap items-center gap-1.5 text-[12px]">
      <Choice
        label="Heard"
        value={together ? 'all' : 'one'}
        onChange={(heard) => dispatch(changed({ together: heard === 'all' }))}
        choices={[
          { value: 'one', title: 'this track' },
          { value: 'all', title: 'all together', hint: 'All that are not muted, through the chain on the whole' },
        ]}
      />
      {tracks.map((track) => {
        const chosen = track === active;
        const words = track.noise === null ? 'no profile' : track.noise.kind === 'kept' ? track.noise.name : 'profiled';
        return (
          <span key={track.id} className={`flex items-center rounded-sheet border ${chosen ? 'border-ink bg-sheet' : 'border-line'}`}>
            <button
              type="button"
              aria-pressed={chosen}
              className="flex items-baseline gap-1.5 px-2 py-0.5"
              onClick={() => {
                dispatch(trackChosen(track.id));
                dispatch(changed({ selection: null, aside: null, candidate: null }));
              }}
            >
              <b className={chosen ? 'font-semibold' : 'font-normal'}>{track.name}</b>{' '}
              <span className={track.noise ? 'text-removed' : 'text-soft'}>{words}</span>
            </button>
            <button
              type="button"
              aria-pressed={track.noiseHeld}
              aria-label={`Hold the noise profile of ${track.name}`}
              title={
                track.noiseHeld
                  ? 'Held: it keeps its profile when all tracks are profiled'
                  : 'Hold its profile when all tracks are profiled'
              }
              className={`px-1.5 ${track.noiseHeld ? 'text-removed' : 'text-soft hover:text-ink'}`}
              onClick={() => dispatch(edited({ type: 'hold-noise', trackId: track.id, held: !track.noiseHeld }))}
            >
              {track.noiseHeld ? <Lock size={12} /> : <LockOpen size={12} />}
            </button>
            {together && (
              <>
                <button
                  type="button"
                  aria-pressed={track.muted}
                  aria-label={`Mute ${track.name}`}
                  title={track.muted ? 'Muted: not in the mix' : 'Leave it out of the mix'}
                  className={`px-1 ${track.muted ? 'text-removed' : 'text-soft hover:text-ink'}`}
                  onClick={() => dispatch(edited({ type: 'set-track', trackId: track.id, muted: !track.muted }))}
                >
                  {track.muted ? <VolumeX size={13} /> : <Volume2 size={13} />}
                </button>
                <input
                  type="number"
                  aria-label={`Level of ${track.name}`}
                  className="w-[52px] border-l border-line bg-transparent px-1 text-right"
                  min={TRACK_GAIN_DB.min}
                  max={TRACK_GAIN_DB.max}
                  step={0.5}
                  value={track.gainDb}
                  onChange={(event) =>
                    event.target.value !== '' &&
                    dispatch(edited({ type: 'set-track', trackId: track.id, gainDb: Number(event.target.value) }))
                  }
                />
                <span className="pr-1.5 text-soft">dB</span>
              </>
            )}
          </span>
        );
      })}
    </div>
  );
}
