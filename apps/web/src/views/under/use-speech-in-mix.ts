import { asTalk, countedTalk, parametersOf, type ListRow, type Spoken, type TreatmentSettings } from '@euphonos/dsp';
import { differingShare, type SessionDocument, type NoiseUnderBed, type SpeechOverBed, type Track } from '@euphonos/engine';
import { useEffect, useMemo, useState } from 'react';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Measured this long after the last change. */
const SETTLE_MS = 400;
/** Of what a track says so much must be among what lowers the bed, and the track is one that lowers it. */
const KEYED_SHARE = 0.5;
/** What lowers the bed may differ by so much from who speaks now: edges fall a frame earlier or later. */
const SAME_SHARE = 0.05;

/** Who speaks on a track. */
export interface Speaker {
  readonly track: Track;
  readonly talk: readonly Spoken[];
}

export interface SpeechFound {
  /** null while it is measured for the first time. */
  readonly speakers: readonly Speaker[] | null;
  readonly over: SpeechOverBed | null;
  readonly noise: NoiseUnderBed | null;
  /** What is told is of an earlier state. */
  readonly stale: boolean;
  readonly trouble: string | null;
}

const speechTracks = ({ tracks }: SessionDocument): readonly Track[] => tracks.filter(({ role, muted }) => role === 'speech' && !muted);

/** Who speaks when, and how far that stands above a bed; measured whenever something of it changes. */
export function useSpeechInMix(bed: Track): SpeechFound {
  const { mixing } = useWorkbench();
  const document = useApp(({ session }) => session!.history!.present);
  const [found, setFound] = useState<(Omit<SpeechFound, 'stale'> & { readonly of: unknown; readonly bed: Track }) | null>(null);
  const { tracks } = document;
  useEffect(() => {
    let wanted = true;
    const timer = setTimeout(() => {
      const speech = speechTracks(document);
      if (speech.length === 0) return setFound({ speakers: [], over: null, noise: null, trouble: null, of: tracks, bed });
      mixing.speechInMix(document, speech, bed).then(
        ({ talk, over, noise }) =>
          wanted &&
          setFound({ speakers: speech.map((track, i) => ({ track, talk: talk[i]! })), over, noise, trouble: null, of: tracks, bed }),
        (error: unknown) => {
          const trouble = error instanceof Error ? error.message : String(error);
          if (wanted) setFound({ speakers: null, over: null, noise: null, trouble, of: tracks, bed });
        },
      );
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a mark or a target is nothing to it
  }, [mixing, tracks, bed]);
  const { speakers = null, over = null, noise = null, trouble = null } = found ?? {};
  return { speakers, over, noise, trouble, stale: found?.of !== tracks || found.bed !== bed };
}

/** Which speakers lower the bed, and whether they speak elsewhere by now. */
export function useKeying(settings: TreatmentSettings | undefined, speakers: readonly Speaker[] | null) {
  return useMemo(() => {
    const rows = settings ? asTalk(settings['talk'] as readonly ListRow[]) : [];
    if (!speakers) return { keyed: new Set<string>(), moved: false, counted: 0 };
    const inside = ({ startSeconds, endSeconds }: Spoken): boolean =>
      rows.some((row) => row.startSeconds < endSeconds && row.endSeconds > startSeconds && row.state === 'treat');
    const keyed = new Set(
      speakers
        .filter(({ talk }) => rows.length === 0 || (talk.length > 0 && talk.filter(inside).length >= KEYED_SHARE * talk.length))
        .map(({ track }) => track.id),
    );
    const now = speakers.filter(({ track }) => keyed.has(track.id)).flatMap(({ talk }) => talk);
    return {
      keyed,
      moved: rows.length > 0 && differingShare(rows, now) > SAME_SHARE,
      counted: settings ? countedTalk(parametersOf(settings) as never).length : 0,
    };
  }, [settings, speakers]);
}
