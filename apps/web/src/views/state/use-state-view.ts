import type { StateView } from '@euphonos/contracts';
import { useEffect, useState } from 'react';
import { getState } from '../../api/state.js';

const AGAIN_MS = 5000;

/** How the server is, asked again while the page is looked at. */
export function useStateView(): { readonly state: StateView | null; readonly trouble: string | null } {
  const [state, setState] = useState<StateView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let left = false;
    const ask = (): void => {
      if (document.hidden) return;
      getState().then(
        (found) => {
          if (left) return;
          setState(found);
          setTrouble(null);
        },
        (error: Error) => !left && setTrouble(error.message),
      );
    };
    ask();
    const timer = setInterval(ask, AGAIN_MS);
    document.addEventListener('visibilitychange', ask);
    return () => {
      left = true;
      clearInterval(timer);
      document.removeEventListener('visibilitychange', ask);
    };
  }, []);
  return { state, trouble };
}
