import type { SurveyView } from '@euphonos/contracts';
import { findingsFor, moveFinding, peopleApart, type Finding } from '@euphonos/dsp';
import type { Reel } from '@euphonos/engine';
import { useCallback, useMemo, useRef, useSyncExternalStore } from 'react';
import { toast } from 'sonner';
import { activeTrack } from '../../store/session-slice.js';
import { useApp } from '../../store/store.js';
import { cancelSurvey, getSurvey, surveyAgain } from '../../api/client.js';
import { onJobEvent } from '../../api/events.js';

const tell = (error: Error): void => {
  toast.error(error.message, { id: 'survey' });
};

/** The survey of one recording, asked for once however many parts of the page look at it, and kept up to date. */
class SurveyWatch {
  view: SurveyView | null = null;
  readonly #listeners = new Set<() => void>();
  #stop: (() => void) | undefined;

  constructor(private readonly recordingId: string) {}

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    if (this.#listeners.size === 1) this.#start();
    return () => {
      this.#listeners.delete(listener);
      if (this.#listeners.size > 0) return;
      this.#stop?.();
      watches.delete(this.recordingId);
    };
  };

  readonly set = (view: SurveyView): void => {
    this.view = view;
    this.#listeners.forEach((call) => call());
  };

  #start(): void {
    watches.set(this.recordingId, this);
    const reload = (): void => void getSurvey(this.recordingId).then(this.set, tell);
    reload();
    this.#stop = onJobEvent(({ subjectId, job }) => {
      if (subjectId !== this.recordingId || job.kind !== 'survey') return;
      if (job.state !== 'running') reload();
      else if (this.view) this.set({ ...this.view, job });
    }, reload);
  }
}

const watches = new Map<string, SurveyWatch>();

function watchOf(recordingId: string): SurveyWatch {
  const found = watches.get(recordingId);
  if (found) return found;
  const made = new SurveyWatch(recordingId);
  watches.set(recordingId, made);
  return made;
}

const NOTHING = (): (() => void) => () => undefined;

/** The survey of a recording, kept up to date while it is made; of none ('') there is nothing. */
export function useSurvey(recordingId: string) {
  const watch = recordingId === '' ? null : watchOf(recordingId);
  const view = useSyncExternalStore(watch?.subscribe ?? NOTHING, () => watch?.view ?? null);
  const again = useCallback(() => surveyAgain(recordingId).then((next) => watchOf(recordingId).set(next), tell), [recordingId]);
  const cancel = useCallback(() => cancelSurvey(recordingId).then((next) => watchOf(recordingId).set(next), tell), [recordingId]);
  return { view, again, cancel };
}

const NO_REEL: Reel = [];

/**
 * What the surveys of its recordings found that concerns the track at work, at the places of its reel: for whoever does not care how far
 * they are. null until one of them is made.
 */
export function useFindings(): readonly Finding[] | null {
  return useFindingsOf(useApp(({ session }) => activeTrack(session)?.reel ?? NO_REEL));
}

/** The same for any reel. */
export function useFindingsOf(reel: Reel): readonly Finding[] | null {
  const sampleRateHz = useApp(({ session }) => session?.history?.present.sampleRateHz ?? 1);
  const known = useRef<readonly (readonly Finding[] | null)[]>([]);
  const subscribe = useCallback(
    (listener: () => void) => {
      const stops = reel.map(({ recordingId }) => watchOf(recordingId).subscribe(listener));
      return () => stops.forEach((stop) => stop());
    },
    [reel],
  );
  const surveys = useSyncExternalStore(subscribe, () => {
    const now = reel.map(({ recordingId }) => watches.get(recordingId)?.view?.survey?.findings ?? null);
    if (now.length !== known.current.length || now.some((one, i) => one !== known.current[i])) known.current = now;
    return known.current;
  });
  return useMemo(() => {
    if (surveys.every((findings) => findings === null)) return null;
    return surveys.flatMap((findings, i) => {
      const { channels, startFrame } = reel[i]!;
      return findings
        ? findingsFor(findings, [...new Set(channels)]).map((finding) => moveFinding(finding, startFrame / sampleRateHz))
        : [];
    });
  }, [surveys, reel, sampleRateHz]);
}

/**
 * What the survey found on each channel of the track at work, where people talk on channels of their own and the track hears several of
 * them; null where it does not, or nobody knows yet.
 */
export function usePeopleApart(): readonly (readonly Finding[])[] | null {
  const reel = useApp(({ session }) => activeTrack(session)?.reel ?? NO_REEL);
  const [part] = reel;
  const { view } = useSurvey(part?.recordingId ?? '');
  const all = view?.survey?.findings;
  return useMemo(() => {
    if (!all || !part || reel.length > 1 || new Set(part.channels).size < 2 || !peopleApart(all)) return null;
    return part.channels.map((channel) => findingsFor(all, [channel]));
  }, [all, part, reel]);
}
