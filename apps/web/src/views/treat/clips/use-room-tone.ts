import { evenLevels, roomToneGain, SHORTEST_TONE_SECONDS } from '@euphonos/dsp';
import { noiseSpans, partAt, partEnd, spanFrames, type PauseTone, type Span } from '@euphonos/engine';
import { toast } from 'sonner';
import { activeTrack } from '../../../store/session-slice.js';
import { store } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useFindings } from '../../survey/use-survey.js';

/** Room tone of the track: its passage, or the one that would be taken, and the gain at which it meets the room around a place. */
export function useRoomTone() {
  const workbench = useWorkbench();
  const { sampleRateHz } = workbench;
  const findings = useFindings();

  /** The passage that was chosen; or the longest that the noise is profiled from; or the best that the survey found. */
  const passage = (): Span | null => {
    const track = activeTrack(store.getState().session);
    if (!track) return null;
    if (track.roomTone) return track.roomTone;
    const longEnough = (span: Span): boolean => spanFrames(span) >= SHORTEST_TONE_SECONDS * sampleRateHz;
    const [profiled] = noiseSpans(track)
      .filter(longEnough)
      .sort((a, b) => spanFrames(b) - spanFrames(a));
    if (profiled) return profiled;
    const found = findings?.flatMap((finding) => (finding.kind === 'noise-passages' ? finding.spans : [])) ?? [];
    const frames = found.map(({ startSeconds, endSeconds }) => ({
      startFrame: Math.round(startSeconds * sampleRateHz),
      endFrame: Math.min(partEnd(partAt(track.reel, startSeconds * sampleRateHz)), Math.round(endSeconds * sampleRateHz)),
    }));
    return frames.find(longEnough) ?? null;
  };

  /** Null, with a word about it, where no passage is known. */
  const tone = async (): Promise<PauseTone | null> => {
    const from = passage();
    if (!from) {
      toast.error('No room to make room tone of: drag over a stretch with noise alone and press Shift R.', { id: 'clips' });
      return null;
    }
    const track = await workbench.levels().catch(() => null);
    if (!track) return { passage: from, gainDb: () => 0 };
    const seconds = ({ startFrame, endFrame }: Span) => ({ startSeconds: startFrame / sampleRateHz, endSeconds: endFrame / sampleRateHz });
    const gain = roomToneGain(evenLevels(track), track.stepSeconds, seconds(from));
    const gainDb = (span: Span): number => {
      const [place] = workbench.places.recorded(span);
      return place ? gain(seconds(place)) : 0;
    };
    return { passage: from, gainDb };
  };
  return { passage, tone };
}
