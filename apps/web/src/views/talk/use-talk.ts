import { useCallback, useEffect } from 'react';
import { getTalk } from '../../api/talk.js';
import { onTalkEvent } from '../../api/events.js';
import { useAppDispatch } from '../../store/store.js';
import { talkKnown } from '../../store/talk-slice.js';

const AGAIN_MS = 30_000;

/** Keeps what is said of a session: read at once, when something is said, and now and then. */
export function useTalkKept(sessionId: string | undefined): void {
  const dispatch = useAppDispatch();
  const read = useCallback(() => {
    if (sessionId)
      getTalk(sessionId).then(
        (talk) => dispatch(talkKnown(talk)),
        () => undefined,
      );
  }, [sessionId, dispatch]);
  useEffect(() => {
    read();
    const timer = setInterval(() => !document.hidden && read(), AGAIN_MS);
    const stop = onTalkEvent((event) => event.sessionId === sessionId && read(), read);
    return () => {
      clearInterval(timer);
      stop();
      dispatch(talkKnown(null));
    };
  }, [read, sessionId, dispatch]);
}
