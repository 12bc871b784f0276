import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { HereView, WhoView } from '@euphonos/contracts';

export interface WhoState {
  /** null until the server has said. */
  readonly who: WhoView | null;
  /** Somebody was signed in here, and is not any more: what is open stays open under the way to sign in again. */
  readonly ended: boolean;
  /** Others who have a page open. */
  readonly here: readonly HereView[];
}

export const whoSlice = createSlice({
  name: 'who',
  initialState: { who: null, ended: false, here: [] } as WhoState,
  reducers: {
    whoKnown: (_, { payload }: PayloadAction<WhoView>): WhoState => ({ who: payload, ended: false, here: [] }),
    signInEnded: (state): WhoState => (state.who?.person ? { ...state, ended: true } : state),
    hereKnown: (state, { payload }: PayloadAction<readonly HereView[]>): WhoState => ({ ...state, here: payload }),
  },
});

export const { whoKnown, signInEnded, hereKnown } = whoSlice.actions;

/** Where there are no accounts everybody is an owner. */
export const isOwner = ({ who }: WhoState): boolean => who !== null && (!who.shared || who.person?.role === 'owner');
export const isEngineer = ({ who }: WhoState): boolean => who !== null && (!who.shared || who.person?.role !== 'listener');
