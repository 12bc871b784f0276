import { useClipEdits } from './use-clip-edits.js';

const LEVEL_STEP_DB = 3;

/** What can be done to the sound of the selected stretch. */
export function SelectionEdits() {
  const { cut, split, silence, tone, level } = useClipEdits();
  const acts = [
    { words: 'Cut', keys: '⌫', hint: 'Cut, and close up; with Shift, leave the gap', act: () => cut(true) },
    { words: 'Split', keys: 'T', hint: 'An edge at either end', act: split },
    { words: 'Silence', keys: 'M', hint: 'Nothing is heard here; the recording stays beneath', act: silence },
    { words: 'Tone', keys: 'R', hint: 'Room tone in place of what is here', act: tone },
    { words: '−3 dB', keys: 'D', hint: 'Lower it by 3 dB; with Shift, raise it', act: () => level(-LEVEL_STEP_DB) },
  ];
  return (
    <div role="toolbar" aria-label="Edit the selection" className="flex shrink-0 gap-1 border-l border-line pl-3">
      {acts.map(({ words, keys, hint, act }) => (
        <button key={words} type="button" title={hint} className="press px-1.5! py-0!" onClick={() => void act()}>
          {words} <span className="key">{keys}</span>
        </button>
      ))}
    </div>
  );
}
