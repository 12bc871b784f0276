import type { NoiseJudgement } from '@euphonos/dsp';
import { noiseSpans, spanFrames, withSpans, type Span } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { setMinus } from '../../components/figures.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** A profile is taken from up to this much: more does not make it better, and it has to be fetched. */
const MOST_NOISE_SECONDS = 60;
const JUDGE_AFTER_MS = 120;

type Judgement = Pick<NoiseJudgement, 'verdict' | 'sentence'> | { readonly verdict: 'too-long'; readonly sentence: string };

function useJudge() {
  const { passage, sampleRateHz } = useWorkbench();
  const floorDbfs = useApp(({ session }) => session?.recording.facts?.figures.noiseFloorDbfs ?? null);
  return async (span: Span): Promise<Judgement> => {
    const seconds = spanFrames(span) / sampleRateHz;
    if (seconds > MOST_NOISE_SECONDS)
      return {
        verdict: 'too-long',
        sentence: `Too long for a noise passage: ${seconds.toFixed(0)} s. Up to ${MOST_NOISE_SECONDS} s are used; one or two are enough.`,
      };
    return passage.judge(span, floorDbfs);
  };
}

/** What a span would be worth as a noise passage, while it is being drawn. */
export function useJudgement(span: Span | null): Judgement | null {
  const judge = useJudge();
  const [judgement, setJudgement] = useState<Judgement | null>(null);
  useEffect(() => {
    setJudgement(null);
    if (!span) return undefined;
    let current = true;
    const wait = setTimeout(() => {
      judge(span).then(
        (found) => current && setJudgement(found),
        () => undefined,
      );
    }, JUDGE_AFTER_MS);
    return () => {
      current = false;
      clearTimeout(wait);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- judge is made anew at every rendering, and asks the same worker
  }, [span]);
  return judgement;
}

const GOOD: ReadonlySet<Judgement['verdict']> = new Set(['clean', 'short']);
const USELESS: ReadonlySet<Judgement['verdict']> = new Set(['too-short', 'too-long', 'silent']);
/** What is taken without asking. */
export const isGood = (verdict: Judgement['verdict']): boolean => GOOD.has(verdict);
/** What cannot be profiled at all. */
export const isUseless = (verdict: Judgement['verdict']): boolean => USELESS.has(verdict);

/** What can be done with the selected span. */
export function usePassages() {
  const judge = useJudge();
  const dispatch = useAppDispatch();
  const workbench = useWorkbench();
  const { player } = workbench;

  /** Passages of the track: with one more, without one, or another instead of them. */
  const setSpans = (spans: readonly Span[]): void => {
    const track = activeTrack(store.getState().session);
    if (track) dispatch(edited({ type: 'set-noise', trackId: track.id, noise: withSpans(track.noise, spans) }));
  };
  const spans = (): readonly Span[] => {
    const track = activeTrack(store.getState().session);
    return track ? noiseSpans(track) : [];
  };
  const ways = {
    instead: (recorded: readonly Span[]): void => setSpans(recorded),
    besides: (recorded: readonly Span[]): void => setSpans([...spans(), ...recorded]),
    everywhere: ([first]: readonly Span[]): void =>
      void (first && dispatch(edited({ type: 'profile-tracks', span: first, fromTrackId: activeTrack(store.getState().session)!.id }))),
  };

  /** Takes the noise profile from the selection, if it is good for one; asks where something speaks against it. */
  const takeNoise = async (way: keyof typeof ways = 'instead'): Promise<void> => {
    const span = store.getState().listening.selection;
    if (!span)
      return void toast('Drag over a stretch with noise alone first, or let C show the ones that were found; N takes its profile.');
    const take = (): void => {
      ways[way](workbench.places.recorded(span));
      dispatch(changed({ selection: null, candidate: null }));
    };
    try {
      const { verdict, sentence } = await judge(span);
      if (isUseless(verdict)) toast.error(setMinus(sentence), { id: 'noise' });
      else if (!isGood(verdict))
        toast.error(setMinus(sentence), { id: 'noise', duration: 10_000, action: { label: 'Take it all the same', onClick: take } });
      else {
        take();
        toast(setMinus(sentence), { id: 'noise' });
      }
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };

  /** Hears the selection looped, as it came; a second time, what was heard before. */
  const audition = (): void => {
    const { selection, auditioning } = store.getState().listening;
    if (!selection) return void toast('Drag over a stretch first, or let C show a passage; H hears it alone, as it came.');
    dispatch(changed({ auditioning: !auditioning }));
    if (auditioning) return player.stop();
    player.seek(selection.startFrame);
    void player.play().catch((error: unknown) => toast.error(error instanceof Error ? error.message : String(error)));
  };

  const dropNoise = (index: number): void => setSpans(spans().filter((_, i) => i !== index));

  return { takeNoise, audition, dropNoise };
}
