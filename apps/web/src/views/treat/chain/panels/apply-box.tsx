import type { ReactNode } from 'react';

interface Props {
  readonly count: number;
  readonly words: string;
  readonly onApply: () => void;
  /** What the button does. */
  readonly children: ReactNode;
}

/** How many places an edit of the clips would take, and the button that does it. */
export const ApplyBox = ({ count, words, onApply, children }: Props) => (
  <div className="mb-1 flex items-center gap-3 rounded-sheet border border-result px-2 py-1 text-[13px]" data-to-apply={count}>
    <span className="grow">
      <b className="font-semibold">{count}</b> {words}
    </span>
    <button type="button" className="press-strong px-2! py-0.5!" disabled={count === 0} onClick={onApply}>
      {children} <span className="ml-1 text-[11px]">P</span>
    </button>
  </div>
);
