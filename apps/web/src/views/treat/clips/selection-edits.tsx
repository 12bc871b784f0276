import { useApp } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useView } from '../use-view.js';
import { useClipEdits } from './use-clip-edits.js';

/** Room that the buttons take. */
const WIDTH_PX = 430;
const LEVEL_STEP_DB = 3;

/** What can be done to the selected stretch, right above it. */
export function SelectionEdits() {
  const { view } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const { cut, split, silence, tone, level } = useClipEdits();
  useView(view);
  if (!selection || selection.endFrame < view.startFrame || selection.startFrame > view.endFrame) return null;
  const left = Math.max(0, Math.min(view.widthPx - WIDTH_PX, view.pxAt(selection.startFrame)));
  const acts = [
    { words: 'Cut', keys: '⌫', hint: 'Cut, and close up; with Shift, leave the gap', act: () => cut(true) },
    { words: 'Split', keys: 'T', hint: 'An edge at either end', act: split },
    { words: 'Silence', keys: 'M', hint: 'Nothing is heard here; the recording stays beneath', act: silence },
    { words: 'Room tone', keys: 'R', hint: 'The room in place of what is here', act: tone },
    { words: '−3 dB', keys: 'D', hint: 'Lower it by 3 dB; with Shift, raise it', act: () => level(-LEVEL_STEP_DB) },
  ];
  return (
    <div data-on-strip role="toolbar" aria-label="Edit the selection" className="absolute top-0 z-10 flex gap-1 bg-paper/85 text-[12px] whitespace-nowrap" style={{ left }}>
      {acts.map(({ words, keys, hint, act }) => (
        <button key={words} type="button" title={hint} className="press px-1.5! py-0!" onClick={() => void act()}>
          {words} <span className="key">{keys}</span>
        </button>
      ))}
    </div>
  );
}
