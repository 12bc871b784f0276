import type { BatchView, ChangeBatchItems } from '@euphonos/contracts';
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { changeBatchItems, getBatch } from '../../api/batches.js';
import { onJobEvent } from '../../api/events.js';

/** Reports of jobs come many a second; the list is read again once in so long. */
const SETTLE_MS = 400;

/** A batch as it stands, and what can be done to its items. */
export function useBatch(id: string) {
  const [batch, setBatch] = useState<BatchView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const load = useCallback(() => {
    getBatch(id).then(
      (found) => {
        setBatch(found);
        setTrouble(null);
      },
      (error: Error) => setTrouble(error.message),
    );
  }, [id]);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => {
    load();
    const soon = (): void => {
      timer.current ??= setTimeout(() => {
        timer.current = undefined;
        load();
      }, SETTLE_MS);
    };
    const stop = onJobEvent(soon, load);
    return () => {
      stop();
      clearTimeout(timer.current);
      timer.current = undefined;
    };
  }, [load]);
  const change = (body: ChangeBatchItems): void =>
    void changeBatchItems(id, body).then(setBatch, (error: Error) => toast.error(error.message));
  return { batch, trouble, load, change };
}
