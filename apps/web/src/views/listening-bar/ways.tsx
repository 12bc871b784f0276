import { clipEnd } from '@euphonos/engine';
import { toast } from 'sonner';
import { playSpan, type PlayedSpan } from '../../audio/play-span.js';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack } from '../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Speeds that the keys go through. */
const SPEEDS = [0.5, 0.75, 1, 1.25, 1.5, 2];
const PRE_ROLLS = [1, 2, 3, 5, 8];

/** Other ways to listen: from before the playhead, over the nearest edge, slower or faster. */
export function ListeningWays() {
  const { player, sampleRateHz } = useWorkbench();
  const { speed, preRollSeconds } = useApp((state) => state.listening);
  const dispatch = useAppDispatch();
  const play = (span: PlayedSpan): void => {
    playSpan(player, span).catch((error: unknown) => toast.error(error instanceof Error ? error.message : String(error)));
  };
  const before = (): void => {
    const from = player.frame;
    play({ fromFrame: Math.max(0, from - preRollSeconds * sampleRateHz), untilFrame: null, backTo: from });
  };
  /** Edges of clips, and of the selection: the one nearest to the playhead. */
  const overEdge = (): void => {
    const at = player.frame;
    const { selection } = store.getState().listening;
    const clips = activeTrack(store.getState().session)?.clips ?? [];
    const edges = selection ? [selection.startFrame, selection.endFrame] : clips.flatMap((clip) => [clip.startFrame, clipEnd(clip)]);
    const edge = edges.reduce((best, one) => (Math.abs(one - at) < Math.abs(best - at) ? one : best), edges[0] ?? at);
    const around = preRollSeconds * sampleRateHz;
    play({ fromFrame: Math.max(0, edge - around), untilFrame: edge + around, backTo: edge });
  };
  const faster = (by: 1 | -1): void => {
    const now = store.getState().listening.speed;
    const next = by > 0 ? SPEEDS.find((one) => one > now) : [...SPEEDS].reverse().find((one) => one < now);
    if (next) dispatch(changed({ speed: next }));
  };
  useKeys('shift_space', before, { byCode: true, preventDefault: true });
  useKeys('o', overEdge);
  useKeys('shift_> >', () => faster(1));
  useKeys('shift_< <', () => faster(-1));
  return (
    <div className="grid shrink-0 grid-cols-[auto_auto] items-center gap-x-2 text-[12px] leading-tight text-soft">
      <label
        className="flex items-center gap-1"
        title="Play from so long before the playhead (Shift Space); over an edge, so long before and after (O)"
      >
        lead-in
        <select
          aria-label="Lead-in, seconds"
          className="rounded-sheet bg-transparent text-ink"
          value={preRollSeconds}
          onChange={({ target }) => dispatch(changed({ preRollSeconds: Number(target.value) }))}
        >
          {PRE_ROLLS.map((seconds) => (
            <option key={seconds} value={seconds}>
              {seconds} s
            </option>
          ))}
        </select>
      </label>
      <span>
        <span className="key">⇧Space</span> <span className="key">O</span>
      </span>
      <label className="flex items-center gap-1" title="How fast it plays, at its own pitch (< and >)">
        speed
        <select
          aria-label="Speed"
          className={`rounded-sheet bg-transparent ${speed === 1 ? 'text-ink' : 'font-semibold text-removed'}`}
          value={speed}
          onChange={({ target }) => dispatch(changed({ speed: Number(target.value) }))}
        >
          {SPEEDS.map((one) => (
            <option key={one} value={one}>
              {one} ×
            </option>
          ))}
        </select>
      </label>
      <span>
        <span className="key">&lt;</span> <span className="key">&gt;</span>
      </span>
    </div>
  );
}
