import { spanFrames, type Span } from '@euphonos/engine';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { formatTime, setMinus } from '../../components/figures.js';
import { activeClip } from '../../store/session-slice.js';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useJudgement, usePassages } from './use-passages.js';
import { useView } from './use-view.js';

/** Room that the tag of the noise passage takes. */
const NOISE_TAG_PX = 152;

/** Names the spans on the strips below, and what can be done with a new one. */
export function PassageRow() {
  const { view, sampleRateHz } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const clip = useApp(({ session }) => activeClip(session));
  const { takeNoise, loop, dropNoise } = usePassages();
  const judgement = useJudgement(selection);
  useView(view);
  const seconds = (frames: number): string => `${(frames / sampleRateHz).toFixed(2)} s`;

  if (selection)
    return (
      <Row>
        <span className="shrink-0">
          Selected {formatTime(selection.startFrame / sampleRateHz, 2)}–{formatTime(selection.endFrame / sampleRateHz, 2)}, {seconds(spanFrames(selection))}
        </span>
        <button type="button" className="press shrink-0 py-0!" onClick={loop}>
          Loop <span className="key">L</span>
        </button>
        <button type="button" className="press shrink-0 py-0!" onClick={() => void takeNoise()}>
          Noise passage <span className="key">N</span>
        </button>
        <span role="status" data-judgement={judgement?.verdict} className={`truncate ${judgement && judgement.verdict !== 'clean' && judgement.verdict !== 'short' ? 'text-removed' : 'text-soft'}`} title={judgement ? setMinus(judgement.sentence) : undefined}>
          {judgement ? setMinus(judgement.sentence) : ''}
        </span>
      </Row>
    );

  const noise = clip?.noisePassage ?? null;
  const looped = clip?.loop ?? null;
  /** At the start of its span, but within the row. */
  const left = (span: Span): number => Math.max(0, Math.min(view.widthPx - 210, view.pxAt(span.startFrame)));
  const visible = (span: Span | null): span is Span => span !== null && span.endFrame > view.startFrame && span.startFrame < view.endFrame;
  const noiseLeft = visible(noise) ? left(noise) : null;
  const loopLeft = visible(looped) ? besides(left(looped), noiseLeft) : 0;
  return (
    <Row>
      {!noise && <span className="text-soft">Drag over a stretch with noise alone; N takes its profile. Drag over words; L loops them.</span>}
      {visible(noise) && (
        <span className="absolute flex items-center gap-1 rounded-sheet bg-removed/15 px-1.5 text-removed" style={{ left: noiseLeft! }}>
          noise passage · {seconds(spanFrames(noise))}
          <button type="button" aria-label="Drop the noise profile" className="rounded-sheet hover:text-ink" onClick={dropNoise}>
            <X size={12} />
          </button>
        </span>
      )}
      {visible(looped) && (
        <span className="absolute rounded-sheet border border-ink bg-paper px-1.5" style={{ left: loopLeft }}>
          loop · {seconds(spanFrames(looped))}
        </span>
      )}
    </Row>
  );
}

/** A place that leaves room for the tag of the noise passage. */
const besides = (left: number, noiseLeft: number | null): number =>
  noiseLeft !== null && left > noiseLeft - NOISE_TAG_PX && left < noiseLeft + NOISE_TAG_PX ? noiseLeft + NOISE_TAG_PX : left;

const Row = ({ children }: { readonly children: ReactNode }) => (
  <div className="relative flex h-[24px] shrink-0 items-center gap-3 text-[12px] whitespace-nowrap">{children}</div>
);
