import type { ReactNode } from 'react';

interface Props {
  readonly tone: 'trouble' | 'word';
  readonly children: ReactNode;
  readonly action?: ReactNode;
}

/** A line of words in the page: trouble in rust, anything else in soft ink. */
export function Notice({ tone, children, action }: Props) {
  return (
    <div
      role={tone === 'trouble' ? 'alert' : 'status'}
      className={`flex items-center gap-3 rounded-sheet border px-3 py-1.5 ${tone === 'trouble' ? 'border-removed text-removed' : 'border-line bg-sheet text-soft'}`}
    >
      <span className="grow">{children}</span>
      {action}
    </div>
  );
}
