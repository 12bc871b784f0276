import { lanes, type Lane } from '@euphonos/engine';
import { Play, Square } from 'lucide-react';
import { useRef, useSyncExternalStore } from 'react';
import { toast } from 'sonner';
import { formatTime } from '../../components/figures.js';
import { Switch } from '../../components/switch.js';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { ListeningWays } from './ways.js';
import { Exactness } from './exactness.js';
import { Meter } from './meter.js';
import { useLoop } from './use-loop.js';

const laneInk: Record<Lane, string> = {
  source: 'text-source data-[on=true]:bg-source',
  removed: 'text-removed data-[on=true]:bg-removed',
  result: 'text-result data-[on=true]:bg-result',
};
export const laneTitle: Record<Lane, string> = { source: 'Source', removed: 'Removed', result: 'Result' };

/** Always there: play, loop, what is heard, how loud it is. */
export function ListeningBar() {
  const { player, sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const { lane, looping, equalLoudness, aside } = useApp((state) => state.listening);
  const loop = useApp(({ session }) => activeTrack(session)?.loop ?? null);
  const playing = useSyncExternalStore(
    (call) => player.subscribe(call),
    () => player.playing,
  );
  const clock = useRef<HTMLSpanElement>(null);
  const clockText = useRef('');

  const toggle = (): void => {
    if (player.playing) return player.stop();
    if (looping && loop && !(player.frame >= loop.startFrame && player.frame < loop.endFrame)) player.seek(loop.startFrame);
    player
      .play()
      .catch((error: unknown) =>
        toast.error(
          `The sound could not be started: ${error instanceof Error ? error.message : String(error)}. Check the sound output, then play again.`,
        ),
      );
  };
  const hear = (next: Lane): void => {
    dispatch(changed({ lane: next, aside: null }));
  };
  useKeys('space', toggle, { byCode: true, preventDefault: true });
  useKeys('1 2 3', ({ key }) => hear(lanes[Number(key) - 1]!));
  useKeys('e', () => dispatch(changed({ equalLoudness: !equalLoudness })));
  useKeys('l', useLoop());
  useKeys('home', () => player.seek(0));
  useFrameLoop(() => {
    const text = formatTime(player.frame / sampleRateHz);
    if (clock.current && text !== clockText.current) clock.current.textContent = clockText.current = text;
  });

  const time = (frame: number): string => formatTime(frame / sampleRateHz, 1);
  return (
    <footer className="flex h-[76px] shrink-0 items-center gap-5 border-t border-line px-5">
      <button
        type="button"
        aria-label={playing ? 'Stop' : 'Play'}
        title={`${playing ? 'Stop' : 'Play'} (Space)`}
        onClick={toggle}
        className="grid size-[46px] shrink-0 place-items-center rounded-sheet border border-ink bg-sheet"
      >
        {playing ? <Square size={16} fill="currentColor" /> : <Play size={18} fill="currentColor" />}
      </button>
      <div className="w-[124px] shrink-0 leading-tight">
        <span ref={clock} className="text-[20px] font-semibold" aria-label="Playhead" />
        <div className="whitespace-nowrap text-[12px] text-soft">
          {loop ? (
            <button
              type="button"
              aria-pressed={looping}
              onClick={() => dispatch(changed({ looping: !looping }))}
              className={looping ? 'text-ink' : 'line-through'}
            >
              loop {time(loop.startFrame)}–{time(loop.endFrame)}
            </button>
          ) : (
            'no loop'
          )}{' '}
          <span className="key">L</span>
        </div>
      </div>
      <div role="radiogroup" aria-label="What is heard" className="flex shrink-0 overflow-hidden rounded-sheet border border-ink">
        {lanes.map((each, i) => (
          <button
            key={each}
            type="button"
            role="radio"
            aria-checked={each === lane && !aside}
            data-on={each === lane && !aside}
            onClick={() => hear(each)}
            className={`border-line px-3 py-2 font-semibold not-first:border-l data-[on=true]:text-sheet ${laneInk[each]}`}
          >
            {laneTitle[each]} <span className="key border-current! text-current! font-normal opacity-70">{i + 1}</span>
          </button>
        ))}
      </div>
      {aside && (
        <button
          type="button"
          data-aside
          className="shrink-0 rounded-sheet border border-removed bg-removed px-2 py-1 text-[12px] leading-tight text-sheet"
          title="Back to the lanes (Esc)"
          onClick={() => dispatch(changed({ aside: null }))}
        >
          {aside.bandHz === undefined ? 'one treatment’s' : `${Math.round(aside.bandHz)} Hz`}
          <br />
          {aside.bandHz === undefined ? 'removed, alone' : 'alone'}
        </button>
      )}
      <label
        className="flex shrink-0 items-center gap-2 leading-tight"
        title="Lanes are played as loud as the source, so that louder does not pass for better (E)"
      >
        <span>
          Equal
          <br />
          loudness
        </span>
        <Switch label="Equal loudness" on={equalLoudness} onChange={(on) => dispatch(changed({ equalLoudness: on }))} />
      </label>
      <ListeningWays />
      <Exactness />
      <Meter />
    </footer>
  );
}
