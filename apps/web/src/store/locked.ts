import type { ListenerMiddlewareInstance } from '@reduxjs/toolkit';
import { toast } from 'sonner';
import { edited, isReadOnly, redone, undone, type SessionState } from './session-slice.js';

/** An edit where somebody only listens does nothing; that is said. */
export function tellOfLocked(middleware: ListenerMiddlewareInstance): void {
  middleware.startListening({
    predicate: (action, state) => {
      const { session } = state as { session: SessionState | null };
      if (!session || !isReadOnly(session)) return false;
      return edited.match(action) ? action.payload.edit.type !== 'set-loop' : undone.match(action) || redone.match(action);
    },
    effect: (_, api) => {
      const { may } = (api.getState() as { session: SessionState }).session;
      toast(
        may === 'hear'
          ? 'You hear this session; it is changed by those who work on it. Say what you would like here.'
          : 'Nothing is changed in Talk; go to Treat or Balance for that.',
        { id: 'locked' },
      );
    },
  });
}
