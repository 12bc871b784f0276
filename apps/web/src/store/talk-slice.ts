import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { TalkView } from '@euphonos/contracts';

export interface TalkState {
  /** null until it has been read. */
  readonly talk: TalkView | null;
  /** The comment that is looked at. */
  readonly chosen: string | null;
}

/** What was said of the session that is open. */
export const talkSlice = createSlice({
  name: 'talk',
  initialState: { talk: null, chosen: null } as TalkState,
  reducers: {
    talkKnown: (state, { payload }: PayloadAction<TalkView | null>): TalkState => ({ ...state, talk: payload }),
    commentChosen: (state, { payload }: PayloadAction<string | null>): TalkState => ({ ...state, chosen: payload }),
  },
});

export const { talkKnown, commentChosen } = talkSlice.actions;
