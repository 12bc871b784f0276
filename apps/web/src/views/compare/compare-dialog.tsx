import { Play, Square } from 'lucide-react';
import { useEffect, useState, useSyncExternalStore, type ReactNode } from 'react';
import { Dialog } from '../../components/dialog.js';
import { formatNumber } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, shownTrack } from '../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import type { Track } from '@euphonos/engine';
import { chanceOfGuessing, HEARD_BELOW, nextX, rightOnes, type Answer, type Trial } from './blind-test.js';
import { sidesOf, type Side } from './sides.js';

/** How often it is looked whether both sides have been measured. */
const LOOK_MS = 150;

/** The track that is heard by the store; the workbench follows it a moment later. */
const heardTrack = (): Track => shownTrack(store.getState().session, store.getState().listening)!;

interface Props {
  readonly onClose: () => void;
}

/** Two things compared equally loud, on keys, and blind: X is one of them, what it was is told at the end. */
export function CompareDialog({ onClose }: Props) {
  const workbench = useWorkbench();
  const dispatch = useAppDispatch();
  const track = useApp(({ session }) => activeTrack(session))!;
  const versions = useApp(({ session }) => session!.history!.present.versions);
  const [before] = useState(() => store.getState().listening);
  const sides = sidesOf(track, versions);
  const [chosen, setChosen] = useState<Record<Answer, string>>({
    a: versions.length > 0 ? `version/${versions[versions.length - 1]!.id}` : 'source',
    b: 'result',
  });
  const side = (answer: Answer): Side => sides.find(({ id }) => id === chosen[answer]) ?? sides[0]!;
  const [heard, setHeard] = useState<Answer | 'x'>('b');
  const [ready, setReady] = useState(false);
  const [x, setX] = useState<Answer | null>(null);
  const [trials, setTrials] = useState<readonly Trial[]>([]);
  const [told, setTold] = useState(false);

  const put = (answer: Answer): void => void dispatch(changed({ ...side(answer).listening, aside: null, equalLoudness: true }));
  const hear = (what: Answer | 'x'): void => {
    if (!ready || (what === 'x' && x === null)) return;
    put(what === 'x' ? x! : what);
    setHeard(what);
  };
  // Both are measured before either is heard, so that each comes as loud as the other at once.
  useEffect(() => {
    let wanted = true;
    setReady(false);
    void (async () => {
      for (const answer of ['a', 'b'] as const) {
        put(answer);
        do await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
        while (wanted && !workbench.hasMeasured(heardTrack()));
      }
      if (wanted) setReady(true);
    })();
    return () => void (wanted = false);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- measured again when another pair is chosen
  }, [workbench, chosen]);
  useEffect(
    () => () => {
      const { lane, equalLoudness } = before;
      dispatch(changed({ lane, equalLoudness, shownVersion: null, without: null }));
    },
    [dispatch, before],
  );

  const start = (): void => {
    if (!ready) return;
    setTrials([]);
    setTold(false);
    setX(nextX());
    setHeard('x');
  };
  // X is put on as soon as it is known.
  useEffect(() => {
    if (x !== null) put(x);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where a new one is drawn
  }, [x, trials.length]);
  const answer = (said: Answer): void => {
    if (x === null) return;
    setTrials([...trials, { x, said }]);
    setX(nextX());
    setHeard('x');
  };
  const finish = (): void => {
    setX(null);
    setTold(true);
    put('b');
    setHeard('b');
  };
  useKeys('a', () => hear('a'), { inDialog: true });
  useKeys('b', () => hear('b'), { inDialog: true });
  useKeys('x', () => (x === null ? start() : hear('x')), { inDialog: true });
  useKeys('left', () => answer('a'), { preventDefault: true, inDialog: true });
  useKeys('right', () => answer('b'), { preventDefault: true, inDialog: true });

  const { player } = workbench;
  const playing = useSyncExternalStore(
    (call) => player.subscribe(call),
    () => player.playing,
  );
  const toggle = (): void => (playing ? player.stop() : void player.play().catch(() => undefined));
  const right = rightOnes(trials);
  const chance = chanceOfGuessing(right, trials.length);
  const button = (what: Answer | 'x', words: ReactNode): ReactNode => (
    <button
      type="button"
      aria-pressed={heard === what}
      disabled={!ready || (what === 'x' && x === null)}
      className={`press grow py-2! text-[16px] ${heard === what ? 'border-ink! font-semibold' : ''}`}
      onClick={() => hear(what)}
    >
      {words} <span className="key">{what.toUpperCase()}</span>
    </button>
  );
  return (
    <Dialog open title={`Compare ${track.name}, equally loud`} cover={x !== null} onClose={onClose}>
      <div className="grid grid-cols-2 gap-3 text-[13px]" data-compare={ready ? (x === null ? 'ready' : 'blind') : 'measuring'}>
        {(['a', 'b'] as const).map((which) => (
          <label key={which} className="flex items-baseline gap-2">
            <b className="font-semibold">{which.toUpperCase()}</b>
            <select
              aria-label={`What ${which.toUpperCase()} is`}
              className="min-w-0 grow rounded-sheet border border-line bg-paper px-1 py-0.5"
              value={side(which).id}
              disabled={x !== null}
              onChange={({ target }) => setChosen({ ...chosen, [which]: target.value })}
            >
              {sides.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
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
      {x === null ? (
        <div className="flex items-center gap-3 text-[13px]">
          <button type="button" className="press-strong shrink-0" disabled={!ready || chosen.a === chosen.b} onClick={start}>
            Blind test
          </button>
          <span className="text-soft">
            {ready
              ? 'X is one of the two. Play, listen as long as you like, and say which; what it was is told at the end.'
              : 'Measuring both, so that they are equally loud …'}
          </span>
        </div>
      ) : (
        <div className="flex items-center gap-3 text-[13px]">
          <button type="button" className="press-strong" onClick={() => answer('a')}>
            X is A <span className="key">←</span>
          </button>
          <button type="button" className="press-strong" onClick={() => answer('b')}>
            X is B <span className="key">→</span>
          </button>
          <span className="grow text-soft" data-trials={trials.length}>
            {trials.length === 0 ? 'first turn' : `${trials.length} said`}
          </span>
          <button type="button" className="press" disabled={trials.length === 0} onClick={finish}>
            Tell me
          </button>
        </div>
      )}
      {told && trials.length > 0 && (
        <p className="m-0 mt-3 text-[14px]" role="status" data-score={`${right}/${trials.length}`}>
          <b className="text-[20px] text-result">
            {right} of {trials.length}
          </b>{' '}
          right. By guessing alone, {formatNumber(100 * chance, chance < 0.1 ? 1 : 0)} % do as well or better:{' '}
          {chance < HEARD_BELOW
            ? 'you hear the difference.'
            : trials.length < 5
              ? 'too few turns to tell.'
              : 'nothing shows that you hear it.'}
          <span className="block text-[12px] text-soft">
            {trials
              .map(({ x: was, said }, i) => `${i + 1}: ${was.toUpperCase()}${was === said ? '' : `, said ${said.toUpperCase()}`}`)
              .join(' · ')}
          </span>
        </p>
      )}
    </Dialog>
  );
}
