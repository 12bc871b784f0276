import type { RoomView } from '@euphonos/contracts';
import { formatBytes } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { getRoom } from '../../api/state.js';
import { Notice } from '../../components/notice.js';

const AGAIN_MS = 60_000;
/** Of one's own room. */
const NEARLY = 0.9;

/** Says early that the disk, or one's own room, is nearly full: before something that comes in is refused. `again` looks once more. */
export function RoomNotice({ again }: { readonly again: unknown }) {
  const [room, setRoom] = useState<RoomView | null>(null);
  useEffect(() => {
    let left = false;
    const ask = (): void =>
      void getRoom().then(
        (found) => !left && setRoom(found),
        () => undefined,
      );
    ask();
    const timer = setInterval(ask, AGAIN_MS);
    return () => {
      left = true;
      clearInterval(timer);
    };
  }, [again]);
  if (!room) return null;
  const { freeBytes, nearlyFull, usedBytes, mostBytes } = room;
  if (nearlyFull)
    return (
      <div className="mb-4">
        <Notice tone="trouble">
          The disk is nearly full: {formatBytes(freeBytes)} are free. What is here is safe. Delete sessions for good that are not needed, or
          move the store to a larger disk.
        </Notice>
      </div>
    );
  if (usedBytes === null || mostBytes === null || usedBytes < NEARLY * mostBytes) return null;
  return (
    <div className="mb-4">
      <Notice tone="trouble">
        You hold {formatBytes(usedBytes)} of {formatBytes(mostBytes)}. What is here is safe; delete sessions for good that are not needed,
        or ask an owner for more room.
      </Notice>
    </div>
  );
}
