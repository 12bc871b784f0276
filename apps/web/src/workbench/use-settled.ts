import { useEffect, useRef, useState } from 'react';
import { useAgain } from './use-again.js';

/** What was measured, and of what; or why it could not be. */
export interface Settled<Of, Found> {
  readonly of: Of;
  readonly found: Found | null;
  readonly trouble: string | null;
}

/**
 * Measures what `of` stands for, so long after it changed last; what comes when it has changed again is not taken. null until the first time:
 * then what was measured last, with what it is of; what could not be measured is asked for again. `of` null asks for nothing.
 */
export function useSettled<Of, Found>(of: Of | null, settleMs: number, ask: (of: Of) => Promise<Found>): Settled<Of, Found> | null {
  const [settled, setSettled] = useState<Settled<Of, Found> | null>(null);
  const again = useAgain(of !== null && settled !== null && settled.of === of && settled.trouble !== null);
  const latest = useRef(ask);
  useEffect(() => {
    latest.current = ask;
  });
  useEffect(() => {
    if (of === null) return undefined;
    let wanted = true;
    const timer = setTimeout(() => {
      latest.current(of).then(
        (found) => wanted && setSettled({ of, found, trouble: null }),
        (error: unknown) => wanted && setSettled({ of, found: null, trouble: error instanceof Error ? error.message : String(error) }),
      );
    }, settleMs);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [of, settleMs, again]);
  return settled;
}
