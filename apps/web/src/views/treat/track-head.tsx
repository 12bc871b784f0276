import { channelWord, formatDb, formatNumber, formatRate, formatTime } from '../../components/figures.js';
import { endOf } from '@euphonos/engine';
import { Choice } from '../../components/choice.js';
import { changed, waveZoomed } from '../../store/listening-slice.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { MarksButton } from './marks/marks-button.js';
import { TracksDialog } from './tracks-dialog.js';
import { useState } from 'react';

/** What the track is, and how it is shown. */
export function TrackHead() {
  const session = useApp((state) => state.session)!;
  const listening = useApp((state) => state.listening);
  const dispatch = useAppDispatch();
  const [tracksOpen, setTracksOpen] = useState(false);
  const track = activeTrack(session)!;
  const { sampleRateHz } = session.history!.present;
  const used = track.reel.flatMap(({ recordingId }) => session.recordings.find(({ id }) => id === recordingId)?.facts ?? []);
  const { figures, channels } = used[0] ?? session.recording.facts!;
  const notes = used.flatMap((facts) => facts.notes);
  const recordedSeconds = track.reel.reduce((sum, { frames }) => sum + frames, 0) / sampleRateHz;
  const lengthFrames = endOf(track.clips);
  const { startFrame } = track.clips[0]!;
  /** All that was recorded sounds, and nothing else. */
  const whole = lengthFrames - startFrame === track.reel.reduce((sum, { frames }) => sum + frames, 0);
  const tracks = session.history!.present.tracks.length;
  const spectrogram = listening.picture === 'spectrogram';
  const linear = listening.waveScale === 'linear';
  const step = (by: 1 | -1): void => {
    if (spectrogram) dispatch(changed({ inkFloorDbfs: Math.max(-120, Math.min(-60, listening.inkFloorDbfs - 6 * by)) }));
    else dispatch(waveZoomed(by));
  };
  const floor = spectrogram ? listening.inkFloorDbfs : linear ? listening.waveHeightDbfs : listening.waveFloorDbfs;
  return (
    <div className="flex items-baseline gap-3">
      <h1 className="sr-only">{session.name}</h1>
      <span className="truncate" title={notes.join(' ')}>
        {whole
          ? `${formatTime(recordedSeconds, 0)}${startFrame > 0 ? ` from ${formatTime(startFrame / sampleRateHz, 1)}` : ''}`
          : `${formatTime((lengthFrames - startFrame) / sampleRateHz, 1)} of ${formatTime(recordedSeconds, 0)}`}{' '}
        {used.length > 1 && `in ${used.length} recordings `}· {formatRate(sampleRateHz)} {channelWord(channels)} · floor{' '}
        {formatDb(figures.noiseFloorDbfs, 'dBFS', 0)}
        {notes.length > 0 && <span className="text-removed"> · {notes[0]}</span>}
      </span>
      {channels > 2 && tracks === 1 && used.length === 1 && (
        <select
          aria-label="Channels used"
          className="rounded-sheet border border-line bg-sheet px-1"
          value={track.reel[0]!.channels.join(',')}
          onChange={(event) =>
            dispatch(edited({ type: 'set-channels', trackId: track.id, channels: event.target.value.split(',').map(Number) }))
          }
        >
          {Array.from({ length: channels }, (_, i) => (
            <option key={i} value={`${i}`}>
              channel {i + 1}
            </option>
          ))}
          {Array.from({ length: channels - 1 }, (_, i) => (
            <option key={`${i}p`} value={`${i},${i + 1}`}>
              channels {i + 1}, {i + 2}
            </option>
          ))}
        </select>
      )}
      {channels > 1 && tracks === 1 && used.length === 1 && track.reel[0]!.channels.length > 1 && (
        <button
          type="button"
          className="press shrink-0 py-0! text-[12px]"
          title="A track for every channel, each with a chain and a noise profile of its own"
          onClick={() => dispatch(edited({ type: 'split-tracks', trackId: track.id, channels }))}
        >
          Split into tracks
        </button>
      )}
      <button
        type="button"
        className="press shrink-0 py-0! text-[12px]"
        title="Tracks, recordings, and more of them"
        onClick={() => setTracksOpen(true)}
      >
        Tracks …
      </button>
      <MarksButton />
      {tracksOpen && <TracksDialog onClose={() => setTracksOpen(false)} />}
      <div className="ml-auto flex shrink-0 items-baseline gap-4 text-[13px]">
        <span
          className="flex items-baseline gap-1 text-soft"
          title={linear && !spectrogram ? 'Level at full height (, and .)' : 'Lowest level shown (, and .)'}
        >
          {linear && !spectrogram ? 'full at' : 'down to'}
          <button type="button" className="key" aria-label="Show louder only" onClick={() => step(-1)}>
            −
          </button>
          <span className="w-[58px] text-center text-ink">{formatNumber(floor, 0)} dBFS</span>
          <button type="button" className="key" aria-label="Show quieter" onClick={() => step(1)}>
            +
          </button>
        </span>
        {spectrogram ? (
          <Choice
            label="Frequency axis"
            value={listening.axis}
            onChange={(axis) => dispatch(changed({ axis }))}
            choices={[
              { value: 'log', title: 'Log' },
              { value: 'linear', title: 'Linear' },
            ]}
          />
        ) : (
          <Choice
            label="Wave scale"
            value={listening.waveScale}
            onChange={(waveScale) => dispatch(changed({ waveScale }))}
            choices={[
              { value: 'decibel', title: 'dB' },
              { value: 'linear', title: 'Linear' },
            ]}
          />
        )}
        <Choice
          label="Picture"
          value={listening.picture}
          onChange={(picture) => dispatch(changed({ picture }))}
          choices={[
            { value: 'wave', title: 'Wave', hint: 'W' },
            { value: 'spectrogram', title: 'Spectrogram', hint: 'W' },
          ]}
        />
      </div>
    </div>
  );
}
