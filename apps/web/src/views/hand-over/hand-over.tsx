import { useState } from 'react';
import { endOf, isPlain, mixedTracks, reelFrames, WHOLE } from '@euphonos/engine';
import { formatTime } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { activeTrack, redone, undone } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { Deliveries } from './deliveries.js';
import { Foreseen } from './foreseen.js';
import { Onward } from './onward.js';
import { TargetPanel } from './target-panel.js';
import { useRenders } from './use-renders.js';

/** Brings the result to what the delivery asks, and shows that it does. */
export function HandOver() {
  const session = useApp((state) => state.session)!;
  const { renders, start, stems, pieces, cancel } = useRenders(session.id);
  const [keepOthers, setKeepOthers] = useState(true);
  const dispatch = useAppDispatch();
  useKeys('mod_z', () => dispatch(undone()), { preventDefault: true });
  useKeys('mod_shift_z mod_y', () => dispatch(redone()), { preventDefault: true });
  const busy = renders?.some(({ job: { state } }) => state === 'queued' || state === 'running') ?? false;
  const tracks = session.history!.present.tracks;
  const track = activeTrack(session)!;
  const mixed = mixedTracks(session.history!.present).length;
  const edited = !isPlain(track.clips, reelFrames(track.reel));
  const length = formatTime(endOf(track.clips) / session.history!.present.sampleRateHz, 1);
  const saved = session.save.kind === 'saved';
  return (
    <main className="flex min-h-0 grow">
      <TargetPanel>
        <Foreseen document={session.history!.present} />
        <button
          type="button"
          className="press-strong mt-2 w-full"
          disabled={!saved || busy}
          onClick={() => void start(session.revision, WHOLE)}
        >
          {busy
            ? 'Rendering …'
            : saved
              ? tracks.length > 1
                ? `Render the mix of ${mixed === 1 ? '1 track' : `${mixed} tracks`}`
                : edited
                  ? `Render the edit, ${length}`
                  : 'Render the whole recording'
              : 'Saving first …'}
        </button>
        {session.recording.facts?.picture && (
          <>
            <button
              type="button"
              className="press mt-2 w-full"
              title="The sound goes back to where it came from: the picture is copied bit for bit, other sound tracks and subtitles go along"
              disabled={!saved || busy}
              onClick={() => void start(session.revision, tracks.length > 1 ? track.id : WHOLE, true, keepOthers)}
            >
              Render back into its picture
            </button>
            <label className="mt-1 flex items-center gap-1.5 text-[12px] text-soft">
              <input type="checkbox" checked={keepOthers} onChange={({ target }) => setKeepOthers(target.checked)} /> with its other sound
              tracks and subtitles
            </label>
          </>
        )}
        <div className="flex gap-2">
          {tracks.length > 1 && (
            <button
              type="button"
              className="press mt-2 min-w-0 grow truncate"
              disabled={!saved || busy}
              onClick={() => void start(session.revision, track.id)}
            >
              Render {track.name} alone
            </button>
          )}
          {mixed > 1 && (
            <button
              type="button"
              className="press mt-2 min-w-0 grow truncate"
              title="A file for each track that is not muted, as it is in the mix: its chain, its clips, its level and place, all of one length; without the chain on the whole, without a target"
              disabled={!saved || busy}
              onClick={() => void stems(session.revision)}
            >
              Render {mixed} stems
            </button>
          )}
        </div>
        <p
          className="mt-2 mb-0 text-[12px] text-soft"
          title={
            tracks.length > 1
              ? 'The mix is of all tracks that are not muted, through the chain on the whole; alone is the track that is worked on. Stems have one length and add up to the mix before the chain on the whole.'
              : undefined
          }
        >
          Rendered is the result, whatever is being listened to.
        </p>
      </TargetPanel>
      <div className="min-w-0 grow overflow-y-auto px-6 py-3">
        {renders && <Deliveries renders={renders} onCancel={(id) => void cancel(id)} />}
        <Onward busy={!saved || busy} onPieces={(what, handleSeconds) => void pieces(session.revision, what, handleSeconds)} />
      </div>
    </main>
  );
}
