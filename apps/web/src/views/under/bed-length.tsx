import { clipEnd, type Track } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { formatNumber, formatTime } from '../../components/figures.js';
import { ValueBox } from '../../components/value-box.js';
import { useKeys } from '../../shell/use-keys.js';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useBedLength } from './use-bed-length.js';

/** A joint is heard from so long before it. */
const BEFORE_SECONDS = 2.5;
/** A bed goes on so long after the last word. Common practice, no source. */
const TAIL_SECONDS = 3;
/** What can be asked for: longer than any programme, and still few enough pieces. */
const SHORTEST_SECONDS = 5;
const LONGEST_SECONDS = 4 * 3600;

/** How long a bed is, the key that brings it to the end of the programme, and its joins: each heard, each exchangeable. */
export function BedLength({ bed }: { readonly bed: Track }) {
  const { player, sampleRateHz } = useWorkbench();
  const tracks = useApp(({ session }) => session!.history!.present.tracks);
  const { working, lengthFrames, seams, extend, exchange } = useBedLength(bed);
  const start = bed.clips[0]?.startFrame ?? 0;
  const lastWord = Math.max(0, ...tracks.filter(({ role, muted }) => role === 'speech' && !muted).map(({ clips }) => lastEnd(clips)));
  const programme = Math.max(1, lastWord + TAIL_SECONDS * sampleRateHz - start);
  const [wished, setWished] = useState<number | null>(null);
  const wishedSeconds = wished ?? Math.round(programme / sampleRateHz);
  const off = Math.abs(lengthFrames / sampleRateHz - wishedSeconds) > 1;
  const go = (): void => void extend(Math.round(wishedSeconds * sampleRateHz));
  useKeys('shift_e', go);
  const hear = (atFrame: number): void => {
    player.seek(Math.max(0, Math.round(atFrame - BEFORE_SECONDS * sampleRateHz)));
    if (player.status !== 'playing') player.play().catch((error: unknown) => toast.error(String(error), { id: 'bed' }));
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pb-2 text-[13px]" data-bed-length={working ? 'coming' : seams.length}>
      <span>
        {bed.name} is <b className="font-semibold">{formatTime(lengthFrames / sampleRateHz, 0)}</b> long
      </span>
      <ValueBox
        title="Length of the bed"
        text={formatTime(wishedSeconds, 0)}
        value={wishedSeconds}
        disabled={working}
        onChange={(seconds) => setWished(Math.max(SHORTEST_SECONDS, Math.min(LONGEST_SECONDS, seconds)))}
      />
      <button
        type="button"
        className="press px-1.5! py-0! text-[12px]"
        disabled={working || !off}
        title="Its clips are laid anew; Ctrl Z gives those that were there back"
        onClick={go}
      >
        {working ? 'Looking for joins …' : lengthFrames / sampleRateHz < wishedSeconds ? 'Extend' : 'Shorten'}{' '}
        <span className="key">⇧E</span>
      </button>
      {seams.map(({ index, atFrame, differenceDb }, i) => (
        <span key={i} className="inline-flex items-baseline gap-1 text-[12px] text-soft">
          <button
            type="button"
            className="press px-1! py-0!"
            title={`Hear the join${differenceDb === null ? '' : `; the sound on both sides differs by ${formatNumber(differenceDb, 1)} dB in its bands`}`}
            onClick={() => hear(atFrame)}
          >
            {formatTime(atFrame / sampleRateHz, 0)}
          </button>
          {index !== null && (
            <button
              type="button"
              className="hover:text-ink"
              disabled={working}
              aria-label={`Another join than that at ${formatTime(atFrame / sampleRateHz, 0)}`}
              title="Another one in its place"
              onClick={() => void exchange(index)}
            >
              ⟳
            </button>
          )}
        </span>
      ))}
    </div>
  );
}

const lastEnd = (clips: Track['clips']): number => (clips.length === 0 ? 0 : clipEnd(clips[clips.length - 1]!));
