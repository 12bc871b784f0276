import { mixChannels, mixedTracks, raised, type BalanceLine, type SessionDocument, type Track } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { givesWay } from '../under/bed-levels.js';
import { useAgain } from '../../workbench/use-again.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import type { TrackLevels } from '../../passage/balance-levels.js';

/** Measured this long after the last change. */
const SETTLE_MS = 350;
/** A track with its line, and a line for each of its clips where it has several; null while they are measured. */
export interface BalanceTrack {
  readonly track: Track;
  readonly line: BalanceLine | null;
  readonly clips: readonly BalanceLine[];
  /** What is shown is of an earlier state. */
  readonly stale: boolean;
}

function linesOf(track: Track, levels: TrackLevels): Pick<BalanceTrack, 'line' | 'clips'> {
  // A bed that gives way to speech is as loud as where nobody speaks: how far it goes down has its own figure.
  const lufs = ({ before, after }: TrackLevels['track']) => (givesWay(track) ? before.lufs : after.lufs);
  const at = (one: TrackLevels['track']) => ({ before: one.before, after: raised({ ...one.after, lufs: lufs(one) }, track.gainDb) });
  return {
    line: { trackId: track.id, clipId: null, gainDb: track.gainDb, ...at(levels.track) },
    clips:
      track.clips.length < 2
        ? []
        : track.clips.flatMap((clip) => {
            const one = levels.clips[clip.id];
            return one ? [{ trackId: track.id, clipId: clip.id, gainDb: clip.gainDb, ...at(one) }] : [];
          }),
  };
}

/** How loud everybody is, measured one after the other whenever something of a track changes. Levels cost nothing. */
export function useBalance(document: SessionDocument): { readonly tracks: readonly BalanceTrack[]; readonly trouble: string | null } {
  const { mixing } = useWorkbench();
  const [known, setKnown] = useState<ReadonlyMap<string, { readonly of: Track; readonly levels: TrackLevels }>>(new Map());
  const [trouble, setTrouble] = useState<string | null>(null);
  const again = useAgain(trouble !== null);
  const channels = mixChannels(mixedTracks(document));
  useEffect(() => {
    let wanted = true;
    const timer = setTimeout(() => {
      void (async () => {
        let failed: string | null = null;
        for (const track of document.tracks) {
          if (!wanted) return;
          try {
            const levels = await mixing.trackLevels(track, channels);
            if (wanted)
              setKnown((before) =>
                before.get(track.id)?.levels === levels ? before : new Map(before).set(track.id, { of: track, levels }),
              );
          } catch (error) {
            failed = error instanceof Error ? error.message : String(error);
          }
        }
        if (wanted) setTrouble(failed);
      })();
    }, SETTLE_MS);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [mixing, document.tracks, channels, again]);
  const tracks = document.tracks.map((track): BalanceTrack => {
    const found = known.get(track.id);
    if (!found) return { track, line: null, clips: [], stale: true };
    const { of } = found;
    const stale =
      of.clips !== track.clips || of.chain !== track.chain || of.noise !== track.noise || of.reel !== track.reel || of.pan !== track.pan;
    return { track, ...linesOf(track, found.levels), stale };
  });
  return { tracks, trouble };
}
