import {
  CLIP_GAIN_DB,
  clipEnd,
  clipFrames,
  continues,
  EDGE_SECONDS,
  missingBefore,
  partAt,
  partEnd,
  touch,
  type Clip,
  type Fade,
  type FadeCurve,
} from '@euphonos/engine';
import { X } from 'lucide-react';
import { Choice } from '../../../components/choice.js';
import { formatTime } from '../../../components/figures.js';
import { Ruler } from '../../../components/ruler.js';
import { cutFrames } from '../../../drawing/draw-clips.js';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useClipEdits } from './use-clip-edits.js';

const CURVES: readonly { readonly value: FadeCurve; readonly title: string; readonly hint: string }[] = [
  { value: 'equal-power', title: 'even power', hint: 'Noise keeps its level over a crossfade' },
  { value: 'linear', title: 'straight', hint: 'Even in amplitude' },
  { value: 's', title: 'S', hint: 'Slow at both ends' },
];
const LONGEST_MS = 5000;

/** The clip that is worked on: what it is, its gain, its fades, what can be given back. */
export function ClipSheet() {
  const track = useApp(({ session }) => activeTrack(session));
  const id = useApp(({ listening }) => listening.chosenClip);
  const also = useApp(({ listening }) => listening.alsoChosen.length);
  const at = track?.clips.findIndex((clip) => clip.id === id) ?? -1;
  const clip = track?.clips[at];
  const { sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const { edit, giveBack } = useClipEdits();
  if (!track || !clip) return null;
  const before = track.clips[at - 1];
  const after = track.clips[at + 1];
  const joined = before && touch(before, clip);
  const goesOn = joined && cutFrames(before, clip, track.reel) === 0;
  const missing = missingBefore(track, at);
  const recordedEnd = partEnd(partAt(track.reel, clip.source.startFrame));
  const seconds = (frames: number): string => `${(frames / sampleRateHz).toFixed(2)} s`;
  const shape = (part: Partial<Pick<Clip, 'gainDb' | 'line' | 'fadeIn' | 'fadeOut'>>): void =>
    void edit({ type: 'shape-clip', clipId: clip.id, shape: part });
  const what =
    clip.sound.kind === 'silence' ? 'silent' : clip.sound.kind === 'room-tone' ? 'room tone' : before || after ? 'clip' : 'the whole track';
  return (
    <section aria-label="Clip" className="mb-3 rounded-sheet border border-focus bg-sheet px-3 pt-1.5 pb-2 text-[13px]">
      <div className="flex items-baseline gap-2">
        <b className="font-semibold">
          {formatTime(clip.startFrame / sampleRateHz, 2)}–{formatTime(clipEnd(clip) / sampleRateHz, 2)}
        </b>
        <span className="text-soft">
          {what}, {seconds(clipFrames(clip))}
        </span>
        {also > 0 && (
          <span className="text-focus" title="Cutting, silence, room tone, level, moving and chains with names go to all of them">
            and {also} more
          </span>
        )}
        <button
          type="button"
          aria-label="Leave the clip"
          className="ml-auto text-soft hover:text-ink"
          onClick={() => dispatch(changed({ chosenClip: null }))}
        >
          <X size={13} />
        </button>
      </div>
      <Ruler
        title="Clip gain"
        unit="dB"
        value={clip.gainDb}
        min={CLIP_GAIN_DB.min}
        max={CLIP_GAIN_DB.max}
        step={0.5}
        scale="linear"
        practice={[-6, 6]}
        usual={0}
        signed
        sentence="After the chain, so that the noise reduction hears the room as it was recorded."
        onChange={(gainDb) => shape({ gainDb })}
      />
      {!(before && continues(before, clip)) && (
        <FadeRuler
          title={goesOn ? 'Level fade' : joined ? 'Crossfade' : 'Fade in'}
          fade={clip.fadeIn}
          sampleRateHz={sampleRateHz}
          onChange={(fadeIn) => shape({ fadeIn })}
        />
      )}
      {!(after && touch(clip, after)) && (
        <FadeRuler title="Fade out" fade={clip.fadeOut} sampleRateHz={sampleRateHz} onChange={(fadeOut) => shape({ fadeOut })} />
      )}
      <div className="mt-1 flex flex-wrap items-baseline gap-2 text-[12px]">
        {(missing || clip.sound.kind !== 'recording') && (
          <button type="button" className="press px-1.5! py-0!" onClick={giveBack}>
            {clip.sound.kind !== 'recording'
              ? 'Give back the recording'
              : `Give back ${seconds(missing!.source.endFrame - missing!.source.startFrame)}`}{' '}
            <span className="key">G</span>
          </button>
        )}
        {!after && clip.source.endFrame < recordedEnd && (
          <button type="button" className="press px-1.5! py-0!" onClick={() => edit({ type: 'give-back', clipId: clip.id, side: 'after' })}>
            Give back {seconds(recordedEnd - clip.source.endFrame)} after it
          </button>
        )}
        {before && continues(before, clip) && (
          <button
            type="button"
            className="press px-1.5! py-0!"
            onClick={() => edit({ type: 'join-clips', span: { startFrame: clip.startFrame, endFrame: clip.startFrame } })}
          >
            Join
          </button>
        )}
        {clip.line.length > 0 && (
          <button type="button" className="press px-1.5! py-0!" onClick={() => shape({ line: [] })}>
            Clear the line
          </button>
        )}
        <span className="text-soft">
          {clip.line.length === 0
            ? 'Double click on the result, or Alt ↑ ↓ at the playhead: a point of its gain line.'
            : 'Drag points; double click adds, and takes away.'}
        </span>
      </div>
    </section>
  );
}

function FadeRuler({
  title,
  fade,
  sampleRateHz,
  onChange,
}: {
  readonly title: string;
  readonly fade: Fade;
  readonly sampleRateHz: number;
  readonly onChange: (fade: Fade) => void;
}) {
  const edgeMs = EDGE_SECONDS * 1000;
  const ms = Math.max(edgeMs, Math.round((fade.frames / sampleRateHz) * 1000));
  const set = (next: number): void => onChange({ ...fade, frames: next <= edgeMs ? 0 : Math.round((next / 1000) * sampleRateHz) });
  return (
    <>
      <Ruler
        title={title}
        unit="ms"
        value={ms}
        min={edgeMs}
        max={LONGEST_MS}
        step={1}
        scale="log"
        practice={[5, 50]}
        usual={edgeMs}
        sentence="Every edge is faded over 5 ms by itself."
        onChange={set}
      />
      {fade.frames > 0 && (
        <div className="flex gap-3 pl-[104px] text-[12px]">
          <Choice label={`${title}, curve`} value={fade.curve} choices={CURVES} onChange={(curve) => onChange({ ...fade, curve })} />
        </div>
      )}
    </>
  );
}
