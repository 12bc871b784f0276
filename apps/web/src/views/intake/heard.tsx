import type { ReactNode, RefObject } from 'react';

interface Props {
  readonly onArrival: () => void;
  /** What scrolls. */
  readonly scroll: RefObject<HTMLElement | null>;
  readonly children: ReactNode;
}

/** The page of whoever only listens: nothing is brought in there. */
export function Heard({ scroll, children }: Props) {
  return (
    <main ref={scroll} className="min-h-0 grow overflow-auto">
      <div className="mx-auto max-w-[1080px] px-5 py-7">
        <h1 className="m-0 text-[22px]">Sessions</h1>
        <p className="m-0 mt-1 mb-5 text-soft">What is shared with you: hear it, say what you think of it where you hear it, accept it.</p>
        {children}
      </div>
    </main>
  );
}
