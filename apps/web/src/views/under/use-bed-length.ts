import { planBed, type BedJoin, type BedPlan } from '@euphonos/dsp';
import { endOf, partAt, partEnd, type Track } from '@euphonos/engine';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { formatTime } from '../../components/figures.js';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Joints of a bed are crossfaded over so long. */
const CROSS_SECONDS = 0.04;

/** Brings a bed to a length, and exchanges single joins of it. */
export function useBedLength(bed: Track) {
  const { passage, sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const [working, setWorking] = useState(false);
  const joins = useRef<{ readonly of: string; readonly found: readonly BedJoin[] } | null>(null);
  const refused = useRef<ReadonlySet<number>>(new Set());
  const [plan, setPlan] = useState<{ readonly made: BedPlan; readonly wishedFrames: number; readonly clips: Track['clips'] } | null>(null);
  const part = partAt(bed.reel, bed.clips[0]?.source.startFrame ?? 0);
  const frames = partEnd(part) - part.startFrame;

  const lay = async (wishedFrames: number, without: ReadonlySet<number>): Promise<void> => {
    if (working) return;
    setWorking(true);
    try {
      const of = `${part.recordingId}/${part.startFrame}`;
      if (joins.current?.of !== of)
        joins.current = { of, found: await passage.bedJoins(bed.reel, { startFrame: part.startFrame, endFrame: partEnd(part) }) };
      const made = planBed(joins.current.found, frames, wishedFrames, sampleRateHz, without);
      if (made.frames < wishedFrames - sampleRateHz && made.joins.length === 0)
        return void toast(`${bed.name} has no two places that are alike enough to be joined.`, { id: 'bed' });
      refused.current = without;
      const pieces = made.pieces.map(({ startFrame, endFrame }) => ({
        startFrame: part.startFrame + startFrame,
        endFrame: part.startFrame + endFrame,
      }));
      dispatch(
        edited({
          type: 'lay-bed',
          trackId: bed.id,
          title: `${bed.name} ${formatTime(made.frames / sampleRateHz, 0)} long`,
          pieces,
          crossFrames: Math.round(CROSS_SECONDS * sampleRateHz),
          fadeFrames: made.fadeFrames,
        }),
      );
      setPlan({ made, wishedFrames, clips: bed.clips });
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'bed' });
    } finally {
      setWorking(false);
    }
  };
  return {
    working,
    lengthFrames: endOf(bed.clips) - (bed.clips[0]?.startFrame ?? 0),
    /** Joins of the plan that stands: how alike, and where in the session. */
    seams:
      plan && plan.made.pieces.length === bed.clips.length
        ? plan.made.joins.map((index, i) => ({ ...joins.current!.found[index]!, index, atFrame: bed.clips[i + 1]!.startFrame }))
        : bed.clips
            .slice(1)
            .flatMap((clip, i) =>
              clip.source.startFrame === bed.clips[i]!.source.endFrame
                ? []
                : [{ index: null, atFrame: clip.startFrame, differenceDb: null }],
            ),
    extend: (wishedFrames: number): Promise<void> => lay(wishedFrames, new Set()),
    /** Another join in place of one. */
    exchange: (index: number): Promise<void> => lay(plan!.wishedFrames, new Set([...refused.current, index])),
  };
}
