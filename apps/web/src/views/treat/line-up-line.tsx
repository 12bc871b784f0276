import type { LineUp } from '@euphonos/dsp';
import type { Track } from '@euphonos/engine';
import { asPlaced } from '@euphonos/contracts';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { takeDriftOut } from '../../api/client.js';
import { formatNumber } from '../../components/figures.js';
import { lineUpTracks } from '../../line-up/line-up.js';
import { edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

/** Below this it is told how sure it is, and nothing is moved by itself. */
const SURE = 0.8;
/** Drift that is not worth a word: a tenth of a picture in an hour. */
const TOLD_PPM = 2;

/** Reads the recording of a track again with its drift taken out, and puts it in its place when it is there. */
function useWithoutDrift(track: Track, onDone: () => void) {
  const dispatch = useAppDispatch();
  const sessionId = useApp(({ session }) => session!.id);
  const [corrected, setCorrected] = useState<string | null>(null);
  const made = useApp(({ session }) => session!.recordings.find(({ id }) => id === corrected));
  const done = useRef(onDone);
  useEffect(() => {
    done.current = onDone;
  });
  useEffect(() => {
    if (!made || (!made.facts && made.job.state !== 'failed')) return;
    setCorrected(null);
    if (!made.facts) return void toast.error(made.job.problem?.message ?? 'It could not be read again; nothing was changed.');
    try {
      dispatch(edited({ type: 'take-drift-out', trackId: track.id, atFrame: 0, recording: asPlaced(made) }));
      done.current();
    } catch (error) {
      toast.error((error as Error).message);
    }
  }, [made, dispatch, track.id]);
  const correct = (ppm: number): void => {
    takeDriftOut(track.reel[0]!.recordingId, sessionId, ppm).then(
      ({ recordingId }) => setCorrected(recordingId),
      (error: Error) => void toast.error(error.message),
    );
  };
  return { corrected, correct };
}

interface Props {
  readonly track: Track;
  /** The track that it is lined up with. */
  readonly to: Track;
  readonly sampleRateHz: number;
}

/** Seconds, of little ones milliseconds. */
const inWords = (seconds: number): string =>
  Math.abs(seconds) < 1 ? `${formatNumber(1000 * seconds, 2)} ms` : `${formatNumber(seconds, 4)} s`;

/** Lines a track up with the one that is worked on, by what both hear; says how sure, by how much, and what else differs. */
export function LineUpLine({ track, to, sampleRateHz }: Props) {
  const dispatch = useAppDispatch();
  const [looking, setLooking] = useState(false);
  const [found, setFound] = useState<LineUp | null>(null);
  const { corrected, correct } = useWithoutDrift(track, () => setFound(null));
  const move = ({ offsetSeconds }: LineUp): void => {
    const byFrames = Math.round(offsetSeconds * sampleRateHz);
    const start = track.clips[0]!.startFrame;
    if (byFrames === 0) return;
    // What would have to begin before the session makes the other one wait.
    if (start + byFrames >= 0) dispatch(edited({ type: 'shift-track', trackId: track.id, byFrames }));
    else {
      dispatch(edited({ type: 'shift-track', trackId: to.id, byFrames: -byFrames - start }));
      dispatch(edited({ type: 'shift-track', trackId: track.id, byFrames: -start }));
    }
  };
  const look = async (): Promise<void> => {
    setLooking(true);
    try {
      const next = await lineUpTracks(to, track, sampleRateHz);
      setFound(next);
      if (!next) toast(`${track.name} and ${to.name} share too little to be lined up by their sound.`, { id: 'line-up' });
      else if (next.certainty >= SURE) move(next);
    } catch (error) {
      toast.error((error as Error).message, { id: 'line-up' });
    } finally {
      setLooking(false);
    }
  };
  const drifts = found !== null && found.certainty >= SURE && Math.abs(found.driftPpm) >= TOLD_PPM;
  return (
    <div className="flex flex-wrap items-baseline gap-2 pb-1.5 pl-1 text-[12px] text-soft">
      <button type="button" className="press px-1.5! py-0!" disabled={looking} onClick={() => void look()}>
        {looking ? 'Listening to both …' : `Line up with ${to.name}`}
      </button>
      {found && (
        <span role="status">
          {found.certainty < SURE
            ? `not sure enough to move it: it seems to be off by ${inWords(found.offsetSeconds)}`
            : Math.round(found.offsetSeconds * sampleRateHz) === 0
              ? 'lined up already'
              : `lined up: moved by ${inWords(found.offsetSeconds)}`}
          {', '}
          {Math.min(99, Math.round(100 * found.certainty))} % sure
          {Math.abs(found.driftPpm) >= TOLD_PPM &&
            ` · its clock drifts by ${formatNumber(found.driftPpm, 0)} ppm (${formatNumber((Math.abs(found.driftPpm) * 3600) / 1000, 0)} ms in an hour)`}
          {drifts && track.reel.length === 1 && (
            <button
              type="button"
              className="press mx-2 px-1.5! py-0!"
              disabled={corrected !== null}
              title="Its recording is read once more at the speed of the other clock, and takes the place of this one; all edits go along"
              onClick={() => correct(found.driftPpm)}
            >
              {corrected === null ? 'Take the drift out' : 'reading it again …'}
            </button>
          )}
          {found.inverted && ' · polarity reversed'}
          {found.certainty < SURE && (
            <button type="button" className="press ml-2 px-1.5! py-0!" onClick={() => move(found)}>
              Move it all the same
            </button>
          )}
        </span>
      )}
    </div>
  );
}
