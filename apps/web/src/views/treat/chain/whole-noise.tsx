import { spanFrames, type Span } from '@euphonos/engine';
import { X } from 'lucide-react';
import { toast } from 'sonner';
import { formatTime, setMinus } from '../../../components/figures.js';
import { changed } from '../../../store/listening-slice.js';
import { edited } from '../../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../../store/store.js';
import { useWholeProfile, useWorkbench } from '../../../workbench/workbench-context.js';
import { isGood, isUseless } from '../use-passages.js';

/** Where the noise of the sum of all tracks is taken from: passages of the session where nobody talks on any of them. */
export function WholeNoise() {
  const { sampleRateHz, view, mixing } = useWorkbench();
  const profile = useWholeProfile();
  const dispatch = useAppDispatch();
  const spans = useApp(({ session }) => session!.history!.present.wholeNoise);
  const selection = useApp(({ listening }) => listening.selection);
  const set = (next: readonly Span[]): void => void dispatch(edited({ type: 'set-whole-noise', spans: next }));

  const take = async (span: Span, before: readonly Span[]): Promise<void> => {
    const accept = (): void => {
      set([...before, span]);
      dispatch(changed({ selection: null }));
    };
    try {
      const { verdict, sentence } = await mixing.judgeWhole(store.getState().session!.history!.present, span);
      if (isUseless(verdict)) toast.error(setMinus(sentence), { id: 'noise' });
      else if (isGood(verdict)) accept();
      else toast.error(setMinus(sentence), { id: 'noise', duration: 10_000, action: { label: 'Take it all the same', onClick: accept } });
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'noise' });
    }
  };

  return (
    <div className="mb-1.5 text-[12px]" data-profile={spans.length === 0 ? 'none' : profile ? 'ready' : 'coming'}>
      <div
        className={`flex flex-wrap items-baseline gap-x-2 gap-y-1 ${spans.length > 0 ? '' : 'rounded-sheet border border-dashed border-removed px-2 py-1'}`}
      >
        <span className="min-w-0 grow">
          {spans.length === 0
            ? 'No noise profile of the whole yet, so it does nothing. Drag over a stretch where nobody talks on any track.'
            : profile
              ? 'Noise of all tracks together, from'
              : 'Taking the noise of all tracks together from'}{' '}
          {spans.map((span, i) => (
            <span key={span.startFrame} className="mr-1.5 whitespace-nowrap text-removed">
              <button
                type="button"
                className="underline decoration-dotted"
                title="Show it"
                onClick={() => view.show(span.startFrame, span.endFrame)}
              >
                {formatTime(span.startFrame / sampleRateHz, 2)}, {(spanFrames(span) / sampleRateHz).toFixed(2)} s
              </button>
              <button
                type="button"
                aria-label={`Drop passage ${i + 1} of the whole`}
                className="align-[-2px] hover:text-ink"
                onClick={() => set(spans.filter((other) => other !== span))}
              >
                <X size={12} />
              </button>
            </span>
          ))}
        </span>
        {selection && (
          <span className="flex shrink-0 gap-1">
            <button type="button" className="press px-1.5! py-0!" onClick={() => void take(selection, [])}>
              Take the selection
            </button>
            {spans.length > 0 && (
              <button type="button" className="press px-1.5! py-0!" onClick={() => void take(selection, spans)}>
                Add it
              </button>
            )}
          </span>
        )}
      </div>
    </div>
  );
}
