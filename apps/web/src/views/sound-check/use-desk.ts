import { createContext, useContext, useEffect, useState, useSyncExternalStore } from 'react';
import { Desk } from '../../sound-check/desk.js';
import type { DeskState } from '../../sound-check/desk-state.js';

const DeskContext = createContext<Desk | null>(null);
export const DeskProvider = DeskContext.Provider;

/** A desk for as long as the view is there. */
export function useOwnDesk(): Desk | null {
  const [desk, setDesk] = useState<Desk | null>(null);
  useEffect(() => {
    const made = new Desk();
    setDesk(made);
    return () => made.close();
  }, []);
  return desk;
}

export const useDesk = (): Desk => useContext(DeskContext)!;

/** One part of what the desk says: drawn anew only when that changes. */
export function useDeskState<Part>(pick: (state: DeskState) => Part): Part {
  const desk = useDesk();
  return useSyncExternalStore(desk.subscribe, () => pick(desk.state));
}
