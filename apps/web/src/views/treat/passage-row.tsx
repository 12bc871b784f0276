import { noiseSpans, spanFrames, type Span } from '@euphonos/engine';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { formatTime, setMinus } from '../../components/figures.js';
import { activeTrack } from '../../store/session-slice.js';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { SelectionEdits } from './clips/selection-edits.js';
import { useLoop } from '../listening-bar/use-loop.js';
import { useJudgement, usePassages } from './use-passages.js';
import { useView } from './use-view.js';

/** Room that the tag of the noise passage takes. */
const NOISE_TAG_PX = 152;

/** Names the spans on the strips below, and what can be done with a new one. */
export function PassageRow() {
  const { view, sampleRateHz, places } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const track = useApp(({ session }) => activeTrack(session));
  const tracks = useApp(({ session }) => session?.history?.present.tracks.length ?? 1);
  const auditioning = useApp(({ listening }) => listening.auditioning);
  const { takeNoise, audition, dropNoise } = usePassages();
  const loop = useLoop();
  const noisy = useApp(
    ({ session, listening }) =>
      activeTrack(session)?.chain.treatments.some(({ id, kind }) => id === listening.openTreatmentId && kind === 'noise-reduction') ??
      false,
  );
  const judgement = useJudgement(noisy ? selection : null);
  useView(view);
  const seconds = (frames: number): string => `${(frames / sampleRateHz).toFixed(2)} s`;
  const spans = track ? noiseSpans(track).map((span) => places.of(span)[0] ?? null) : [];

  if (selection)
    return (
      <Row>
        <span className="shrink-0">
          {formatTime(selection.startFrame / sampleRateHz, 2)}–{formatTime(selection.endFrame / sampleRateHz, 2)},{' '}
          {seconds(spanFrames(selection))}
        </span>
        <Press onPress={loop} keys="L">
          Loop
        </Press>
        <Press onPress={audition} keys="H" on={auditioning} hint="Hear it looped, as it came">
          Hear
        </Press>
        <Press onPress={() => void takeNoise()} keys="N" hint="Take the noise profile from it">
          Noise
        </Press>
        {spans.length > 0 && (
          <Press onPress={() => void takeNoise('besides')} keys="⇧N" hint="One more passage for the same profile">
            Add it
          </Press>
        )}
        {tracks > 1 && (
          <Press onPress={() => void takeNoise('everywhere')} hint="Every track that is not held takes its own profile from this span">
            All tracks
          </Press>
        )}
        <SelectionEdits />
        <span
          role="status"
          data-judgement={judgement?.verdict}
          className={`truncate ${judgement && judgement.verdict !== 'clean' && judgement.verdict !== 'short' ? 'text-removed' : 'text-soft'}`}
          title={judgement ? setMinus(judgement.sentence) : undefined}
        >
          {judgement ? setMinus(judgement.sentence) : ''}
        </span>
      </Row>
    );

  const looped = track?.loop ?? null;
  /** At the start of its span, but within the row. */
  const left = (span: Span): number => Math.max(0, Math.min(view.widthPx - 210, view.pxAt(span.startFrame)));
  const visible = (span: Span | null): span is Span => span !== null && span.endFrame > view.startFrame && span.startFrame < view.endFrame;
  const tags: { readonly index: number; readonly span: Span; readonly leftPx: number }[] = [];
  for (const [index, span] of spans.entries()) {
    if (!visible(span)) continue;
    const before = tags[tags.length - 1];
    tags.push({ index, span, leftPx: before ? Math.max(left(span), before.leftPx + NOISE_TAG_PX) : left(span) });
  }
  return (
    <Row>
      {!track?.noise && (
        <span className="text-soft">
          <span className="key">C</span> shows passages with noise alone; or drag over one. <span className="key">N</span> takes its
          profile. Drag over words; <span className="key">L</span> loops them.
        </span>
      )}
      {tags.map(({ index, span, leftPx }) => (
        <span
          key={index}
          className="absolute flex items-center gap-1 rounded-sheet bg-removed/15 px-1.5 text-removed"
          style={{ left: leftPx }}
        >
          noise {spans.length > 1 ? index + 1 : 'passage'} · {seconds(spanFrames(span))}
          <button
            type="button"
            aria-label={spans.length > 1 ? `Drop noise passage ${index + 1}` : 'Drop the noise profile'}
            className="rounded-sheet hover:text-ink"
            onClick={() => dropNoise(index)}
          >
            <X size={12} />
          </button>
        </span>
      ))}
      {visible(looped) && (
        <span
          className="absolute rounded-sheet border border-ink bg-paper px-1.5"
          style={{ left: tags.reduce((at, { leftPx }) => besides(at, leftPx), left(looped)) }}
        >
          loop · {seconds(spanFrames(looped))}
        </span>
      )}
    </Row>
  );
}

interface PressProps {
  readonly children: ReactNode;
  readonly onPress: () => void;
  readonly keys?: string;
  readonly on?: boolean;
  readonly hint?: string;
}

const Press = ({ children, onPress, keys, on, hint }: PressProps) => (
  <button
    type="button"
    aria-pressed={on}
    title={hint}
    className={`press shrink-0 px-1.5! py-0! ${on ? 'border-focus! text-focus!' : ''}`}
    onClick={onPress}
  >
    {children} {keys && <span className="key">{keys}</span>}
  </button>
);

/** A place that leaves room for the tag of the noise passage. */
const besides = (left: number, noiseLeft: number): number =>
  left > noiseLeft - NOISE_TAG_PX && left < noiseLeft + NOISE_TAG_PX ? noiseLeft + NOISE_TAG_PX : left;

const Row = ({ children }: { readonly children: ReactNode }) => (
  <div className="relative flex h-[24px] shrink-0 items-center gap-2 overflow-hidden text-[12px] whitespace-nowrap">{children}</div>
);
