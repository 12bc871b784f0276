import { clipEnd, type Track } from '@euphonos/engine';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { microphones, useBleed } from './use-bleed.js';

/** Tracks that run beside each other for so long may hear each other. */
const TOGETHER_SECONDS = 5;

/** Where several microphones run at once: lower each while only others are heard in it. */
export function BleedLine() {
  const { sampleRateHz } = useWorkbench();
  const document = useApp(({ session }) => session!.history!.present);
  const { working, look } = useBleed();
  const tracks = microphones(document);
  const beside = tracks.some((one, i) => tracks.slice(i + 1).some((other) => overlapFrames(one, other) > TOGETHER_SECONDS * sampleRateHz));
  if (!beside) return null;
  const lowered = tracks.filter(({ chain }) => chain.treatments.some(({ kind, bypassed }) => kind === 'bleed' && !bypassed)).length;
  return (
    <div className="flex items-center gap-3 pb-2 text-[13px]" data-bleed={working ? 'coming' : lowered}>
      <span>
        {lowered === 0
          ? `${tracks.length} microphones run at once: each may hear the others.`
          : `Others are lowered on ${lowered} of ${tracks.length} microphones while their owners are silent.`}
      </span>
      <button type="button" className="press px-1.5! py-0! text-[12px]" disabled={working} onClick={() => void look()}>
        {working ? 'Listening to all …' : lowered === 0 ? 'Look for bleed and lower it' : 'Look again'}
      </button>
    </div>
  );
}

function overlapFrames({ clips: a }: Track, { clips: b }: Track): number {
  const [from, to] = [Math.max(a[0]?.startFrame ?? 0, b[0]?.startFrame ?? 0), Math.min(endsAt(a), endsAt(b))];
  return Math.max(0, to - from);
}

const endsAt = (clips: Track['clips']): number => (clips.length === 0 ? 0 : clipEnd(clips[clips.length - 1]!));
