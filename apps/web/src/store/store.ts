import { configureStore, createListenerMiddleware } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { startAutosave } from './autosave.js';
import { tellOfLocked } from './locked.js';
import { startKeepingHistory } from './kept-history.js';
import { listeningSlice } from './listening-slice.js';
import { sessionSlice } from './session-slice.js';
import { talkSlice } from './talk-slice.js';
import { whoSlice } from './who-slice.js';

const autosave = createListenerMiddleware();

export const store = configureStore({
  reducer: { session: sessionSlice.reducer, listening: listeningSlice.reducer, who: whoSlice.reducer, talk: talkSlice.reducer },
  // Histories hold many documents; walking them at every action to look for mistakes costs more than it finds.
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }).prepend(autosave.middleware),
});

export type RootState = ReturnType<typeof store.getState>;
export type AppDispatch = typeof store.dispatch;
export const useApp = useSelector.withTypes<RootState>();
export const useAppDispatch = useDispatch.withTypes<AppDispatch>();

startAutosave(autosave);
startKeepingHistory(autosave);
tellOfLocked(autosave);
