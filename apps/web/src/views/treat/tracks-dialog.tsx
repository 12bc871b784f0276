import { endOf, partAt, partEnd, type Track } from '@euphonos/engine';
import { asPlaced, type RecordingView } from '@euphonos/contracts';
import { Trash2 } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { bringIn } from '../../api/client.js';
import { Dialog } from '../../components/dialog.js';
import { NameField } from '../../components/name-field.js';
import { channelWord, formatNumber, formatTime } from '../../components/figures.js';
import { activeTrack, edited, trackChosen } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { LineUpLine } from './line-up-line.js';

/** The tracks of the session, what they are called and where they begin; its recordings, and where they lie. */
export function TracksDialog({ onClose }: { readonly onClose: () => void }) {
  const session = useApp((state) => state.session)!;
  const { tracks, sampleRateHz } = session.history!.present;
  const active = activeTrack(session)!;
  return (
    <Dialog open title="Tracks and recordings" onClose={onClose}>
      <ul className="m-0 list-none p-0">
        {tracks.map((track) => (
          <TrackLine key={track.id} track={track} sampleRateHz={sampleRateHz} alone={tracks.length === 1}>
            {track !== active && <LineUpLine track={track} to={active} sampleRateHz={sampleRateHz} />}
          </TrackLine>
        ))}
      </ul>
      <h2 className="mt-4 mb-1 font-serif text-[16px]">Recordings</h2>
      <ul className="m-0 list-none p-0">
        {session.recordings.map((recording) => (
          <RecordingLine key={recording.id} recording={recording} />
        ))}
      </ul>
      <AddFiles sessionId={session.id} />
    </Dialog>
  );
}

interface TrackLineProps {
  readonly track: Track;
  readonly sampleRateHz: number;
  /** It is the only one. */
  readonly alone: boolean;
  readonly children: ReactNode;
}

function TrackLine({ track, sampleRateHz, alone, children }: TrackLineProps) {
  const dispatch = useAppDispatch();
  const { id, clips } = track;
  const tracks = useApp(({ session }) => session!.history!.present.tracks.length);
  const channels = useApp(({ session }) => session!.recordings.find((one) => one.id === track.reel[0]!.recordingId)?.facts?.channels ?? 1);
  const startFrame = clips[0]!.startFrame;
  return (
    <li className="border-t border-line text-[13px]">
      <div className="flex items-center gap-2 py-1.5">
        <NameField name={track.name} onRename={(name) => dispatch(edited({ type: 'set-track', trackId: id, name }))} />
        <label className="flex items-baseline gap-1 text-soft">
          from
          <input
            key={startFrame}
            type="number"
            aria-label={`Where ${track.name} begins, seconds`}
            className="w-[86px] rounded-sheet border border-line bg-transparent px-1 text-right text-ink"
            min={0}
            step={0.001}
            defaultValue={Number((startFrame / sampleRateHz).toFixed(5))}
            onBlur={({ target }) => {
              const byFrames = Math.round(Number(target.value) * sampleRateHz) - startFrame;
              if (target.value !== '' && byFrames !== 0) dispatch(edited({ type: 'shift-track', trackId: id, byFrames }));
            }}
            onKeyDown={({ key, currentTarget }) => key === 'Enter' && currentTarget.blur()}
          />
          s to {formatTime(endOf(clips) / sampleRateHz, 1)}
        </label>
        {tracks > 1 && channels > 1 && track.reel.length === 1 && track.reel[0]!.channels.length > 1 && (
          <button
            type="button"
            className="press shrink-0 px-1.5! py-0!"
            title="A track for every channel of its recording, each with a chain of its own"
            onClick={() => dispatch(edited({ type: 'split-tracks', trackId: id, channels }))}
          >
            Split
          </button>
        )}
        <button
          type="button"
          aria-label={`Remove ${track.name}`}
          title={alone ? 'The last track stays' : 'Remove the track; its recordings stay in the session'}
          disabled={alone}
          className="rounded-sheet p-1 text-soft not-disabled:hover:text-removed disabled:opacity-30"
          onClick={() => dispatch(edited({ type: 'remove-track', trackId: id }))}
        >
          <Trash2 size={14} />
        </button>
      </div>
      {children}
    </li>
  );
}

/** A recording: where it lies, and where it can be put. */
function RecordingLine({ recording }: { readonly recording: RecordingView }) {
  const session = useApp((state) => state.session)!;
  const dispatch = useAppDispatch();
  const { player } = useWorkbench();
  const { tracks, sampleRateHz } = session.history!.present;
  const active = activeTrack(session)!;
  const { facts, job, fileName, driftPpm } = recording;
  const on = tracks.filter(({ reel }) => reel.some(({ recordingId }) => recordingId === recording.id));
  const here = partHeardAt(active, player.frame);
  const put = (edit: Parameters<typeof edited>[0]): void => {
    try {
      dispatch(edited(edit));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const newTrack = (): void => {
    const newId = crypto.randomUUID();
    put({ type: 'add-track', newId, recording: asPlaced(recording) });
    dispatch(trackChosen(newId));
  };
  return (
    <li className="flex items-baseline gap-2 border-t border-line py-1.5 text-[13px]">
      <span className="min-w-0 grow">
        <span className="block truncate">{fileName}</span>
        <span className="text-[12px] text-soft">
          {job.state === 'failed'
            ? (job.problem?.message ?? 'It could not be read.')
            : !facts
              ? `reading … ${Math.round(job.progress * 100)} %`
              : `${formatTime(facts.lengthFrames / sampleRateHz, 1)} ${channelWord(facts.channels)} · ${
                  on.length === 0 ? 'on no track' : `on ${on.map(({ name }) => name).join(', ')}`
                }${driftPpm === 0 ? '' : ` · a drift of ${formatNumber(driftPpm, 1)} ppm taken out`}`}
        </span>
      </span>
      {facts && (
        <>
          <button type="button" className="press px-1.5! py-0!" onClick={newTrack}>
            New track
          </button>
          <button
            type="button"
            className="press px-1.5! py-0!"
            title={`Behind what is on ${active.name}, under the same chain`}
            onClick={() => put({ type: 'add-recording', trackId: active.id, recording: asPlaced(recording) })}
          >
            Behind {active.name}
          </button>
          {here && here.recordingId !== recording.id && here.frames === facts.lengthFrames && (
            <button
              type="button"
              className="press px-1.5! py-0!"
              title="Another take or export of the same length: all edits stay"
              onClick={() =>
                put({ type: 'exchange-recording', trackId: active.id, atFrame: here.startFrame, recording: asPlaced(recording) })
              }
            >
              In its place
            </button>
          )}
        </>
      )}
    </li>
  );
}

/** The recording of the clip at or before a frame of the session. */
function partHeardAt({ reel, clips }: Track, frame: number) {
  const clip = [...clips].reverse().find(({ startFrame }) => startFrame <= frame) ?? clips[0]!;
  const part = partAt(reel, clip.source.startFrame);
  return partEnd(part) > 0 ? part : null;
}

function AddFiles({ sessionId }: { readonly sessionId: string }) {
  const input = useRef<HTMLInputElement>(null);
  const [share, setShare] = useState<number | null>(null);
  const add = async (files: readonly File[]): Promise<void> => {
    for (const file of files) {
      setShare(0);
      await bringIn(file, setShare, { session: sessionId }).catch((error: Error) => toast.error(`${file.name}: ${error.message}`));
    }
    setShare(null);
  };
  return (
    <div className="mt-3 flex items-center gap-3">
      <button type="button" className="press-strong shrink-0" onClick={() => input.current?.click()}>
        Bring in more
      </button>
      <span className="text-[12px] text-soft">
        {share === null
          ? 'They are converted to the rate of the session and wait here until they are put on a track.'
          : `${Math.round(share * 100)} % sent`}
      </span>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Recordings for this session"
        onChange={({ target }) => {
          void add([...(target.files ?? [])]);
          target.value = '';
        }}
      />
    </div>
  );
}
