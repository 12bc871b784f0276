import { Play, Square } from 'lucide-react';
import { endOf } from '@euphonos/engine';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { Dialog } from '../../components/dialog.js';
import { formatDb, formatNumber, formatTime } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { activeTrack } from '../../store/session-slice.js';
import { store } from '../../store/store.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import type { Answer } from './blind-test.js';
import { compareSpan } from './compare-span.js';
import { Score } from './score.js';
import { sidesOf, type Side } from './sides.js';
import { Turn } from './turn.js';
import { useBlindTest } from './use-blind-test.js';
import { useCompared } from './use-compared.js';

interface Props {
  /** The track at work, or all of them through the chain on the whole. */
  readonly of: 'track' | 'whole';
  readonly onClose: () => void;
}

/** What is compared, as it was when the dialog was opened. */
function opened(of: Props['of'], frame: number, sampleRateHz: number) {
  const { session, listening } = store.getState();
  const document = session!.history!.present;
  const track = activeTrack(session)!;
  const { versions } = document;
  const sides = sidesOf(document, of === 'whole' ? null : track.id);
  const lengthFrames = of === 'whole' ? Math.max(...document.tracks.map(({ clips }) => endOf(clips))) : endOf(track.clips);
  const { selection, looping } = listening;
  const span = compareSpan({ selection, loop: looping ? track.loop : null, frame, lengthFrames }, sampleRateHz);
  const a = versions.length > 0 ? `version/${versions[versions.length - 1]!.id}` : 'source';
  return { sides, span, a, name: of === 'whole' ? 'the mix' : track.name };
}

/** Two things compared equally loud, on keys, and blind: X is one of them, what it was is told at the end. */
export function CompareDialog({ of, onClose }: Props) {
  const { player: monitor, sampleRateHz } = useWorkbench();
  const [{ sides, span, a: firstA, name }] = useState(() => opened(of, monitor.frame, sampleRateHz));
  const [chosen, setChosen] = useState<Record<Answer, string>>({ a: firstA, b: 'result' });
  const side = (answer: Answer): Side => sides.find(({ id }) => id === chosen[answer]) ?? sides[0]!;
  const { player, levels, trouble } = useCompared(side('a'), side('b'), span);
  const [heard, setHeard] = useState<Answer | 'x'>('b');
  const [playing, setPlaying] = useState(false);
  const blind = useBlindTest();
  const { x, trials, told } = blind;
  const clock = useRef<HTMLSpanElement>(null);
  const bar = useRef<HTMLElement>(null);

  const sounding: Answer = heard === 'x' ? x! : heard;
  // What is heard follows what was chosen; the first note of a blind turn, too.
  useEffect(() => player?.hear(sounding === 'a' ? 0 : 1), [player, sounding, trials.length]);
  useEffect(() => monitor.stop(), [monitor]);
  useEffect(() => {
    if (player && playing) start(player);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- another pair goes on where one played
  }, [player]);
  const start = (one: NonNullable<typeof player>): void =>
    void one.play().catch((error: unknown) => toast.error(error instanceof Error ? error.message : String(error)));
  const toggle = (): void => {
    // Before it is there: as soon as it is.
    if (playing) player?.stop();
    else if (player) start(player);
    setPlaying(!playing);
  };
  const hear = (what: Answer | 'x'): void => {
    if (player && !(what === 'x' && x === null)) setHeard(what);
  };
  const begin = (): void => {
    if (!player || chosen.a === chosen.b) return;
    blind.begin();
    setHeard('x');
  };
  const answer = (said: Answer): void => {
    blind.answer(said);
    if (x !== null) setHeard('x');
  };
  const finish = (): void => {
    setHeard('b');
    blind.finish();
  };
  useKeys('a', () => hear('a'), { inDialog: true });
  useKeys('b', () => hear('b'), { inDialog: true });
  useKeys('x', () => (x === null ? begin() : hear('x')), { inDialog: true });
  useKeys('left', () => answer('a'), { preventDefault: true, inDialog: true });
  useKeys('right', () => answer('b'), { preventDefault: true, inDialog: true });
  useKeys('space', toggle, { byCode: true, preventDefault: true, inDialog: true });
  useFrameLoop(() => {
    if (!player || !clock.current || !bar.current) return;
    const text = formatTime(span.startFrame / sampleRateHz + player.seconds, 1);
    if (clock.current.textContent !== text) clock.current.textContent = text;
    bar.current.style.width = `${(100 * player.seconds * sampleRateHz) / (span.endFrame - span.startFrame)}%`;
  });

  const button = (what: Answer | 'x', words: ReactNode): ReactNode => (
    <button
      type="button"
      aria-pressed={heard === what}
      disabled={!player || (what === 'x' && x === null)}
      className={`press grow py-2! text-[16px] ${heard === what ? 'border-ink! font-semibold' : ''}`}
      onClick={() => hear(what)}
    >
      {words} <span className="key">{what.toUpperCase()}</span>
    </button>
  );
  const level = ({ lufs, gainDb }: (typeof levels)[number]): string =>
    `${formatDb(lufs, 'LUFS')}${Math.abs(gainDb) < 0.05 ? '' : `, ${gainDb > 0 ? 'raised' : 'lowered'} by ${formatNumber(Math.abs(gainDb), 1)}`}`;
  return (
    <Dialog open title={`Compare ${name}, equally loud`} onClose={onClose}>
      <div className="grid grid-cols-2 gap-x-3 text-[13px]" data-compare={player ? (x === null ? 'ready' : 'blind') : 'rendering'}>
        {(['a', 'b'] as const).map((which, i) => (
          <label key={which} className="flex flex-wrap items-baseline gap-x-2">
            <b className="font-semibold">{which.toUpperCase()}</b>
            <select
              aria-label={`What ${which.toUpperCase()} is`}
              className="min-w-0 grow rounded-sheet border border-line bg-paper px-1 py-0.5"
              value={side(which).id}
              disabled={x !== null}
              onChange={({ target }) => setChosen({ ...chosen, [which]: target.value })}
            >
              {sides.map(({ id, name: title }) => (
                <option key={id} value={id}>
                  {title}
                </option>
              ))}
            </select>
            <span className="w-full pl-5 text-[12px] text-soft" data-side-level>
              {x === null && levels[i] ? level(levels[i]) : ' '}
            </span>
          </label>
        ))}
      </div>
      <div className="my-3 flex gap-3">
        <button type="button" autoFocus aria-label={playing ? 'Stop' : 'Play'} className="press px-3!" onClick={toggle}>
          {playing ? <Square size={15} fill="currentColor" /> : <Play size={17} fill="currentColor" />}
        </button>
        {button('a', 'Hear A')}
        {button('x', 'Hear X')}
        {button('b', 'Hear B')}
      </div>
      <div className="relative mb-3 h-[3px] bg-faint">
        <i ref={bar} aria-hidden className="absolute inset-y-0 left-0 bg-focus" />
      </div>
      <div className="mb-3 flex justify-between text-[12px] text-soft">
        <span ref={clock} />
        <span>
          {formatTime(span.startFrame / sampleRateHz, 1)}–{formatTime(span.endFrame / sampleRateHz, 1)}, again and again
        </span>
      </div>
      {x === null ? (
        <div className="flex items-center gap-3 text-[13px]">
          <button type="button" className="press-strong shrink-0" disabled={!player || chosen.a === chosen.b} onClick={begin}>
            Blind test
          </button>
          <span className={trouble ? 'text-removed' : 'text-soft'}>
            {trouble ??
              (player
                ? 'X is one of the two. Play, listen as long as you like, and say which; what it was is told at the end.'
                : 'Rendering both, so that they are there at once and equally loud …')}
          </span>
        </div>
      ) : (
        <Turn said={trials.length} onAnswer={answer} onFinish={finish} />
      )}
      {told && trials.length > 0 && <Score trials={trials} />}
    </Dialog>
  );
}
