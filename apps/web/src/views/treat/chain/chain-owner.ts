import type { Track } from '@euphonos/engine';
import { createContext, useContext } from 'react';

/** Whose chain is shown: that of a track, or of one of its clips. Goes into every edit of the chain. */
export interface ChainOwner {
  readonly trackId: string;
  readonly clipId?: string;
}

const Owner = createContext<ChainOwner | null>(null);
export const ChainOwnerProvider = Owner.Provider;

/** The owner of the chain around; by itself a track's. */
export function useChainOwner(track: Pick<Track, 'id'>): ChainOwner {
  return useContext(Owner) ?? { trackId: track.id };
}
