import { useEffect, useRef, useState } from 'react';
import { onJobEvent } from '../api/events.js';

const FIRST_WAIT_MS = 2000;
const LONGEST_WAIT_MS = 30_000;

/** Counts up while something could not be had: after 2 s, then twice as long each time, and at once when the server is back. */
export function useAgain(trouble: boolean): number {
  const [asked, setAsked] = useState(0);
  const tries = useRef(0);
  useEffect(() => {
    if (!trouble) {
      tries.current = 0;
      return undefined;
    }
    const again = (): void => setAsked((before) => before + 1);
    const timer = setTimeout(again, Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** tries.current));
    tries.current++;
    const stop = onJobEvent(() => undefined, again);
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [trouble, asked]);
  return asked;
}
