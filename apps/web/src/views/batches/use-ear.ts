import type { BatchItemView } from '@euphonos/contracts';
import { useEffect, useRef, useState } from 'react';

export type Side = 'source' | 'result';

/** Hears an item as it came or as it is handed over, at the same place of both. */
export function useEar(item: BatchItemView | null) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [side, setSide] = useState<Side>('result');
  const [playing, setPlaying] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const address = item?.renderId
    ? side === 'result'
      ? `/api/renders/${item.renderId}/file`
      : `/api/recordings/${item.recordingId}/file`
    : null;
  const of = item?.sessionId ?? null;
  const last = useRef(of);
  useEffect(() => {
    const was = audio.current;
    // Another side of the same goes on where it was; another recording begins.
    const from = last.current === of ? (was?.currentTime ?? 0) : 0;
    const goOn = was !== null && !was.paused;
    last.current = of;
    was?.pause();
    audio.current = null;
    setTrouble(null);
    if (!address) return setPlaying(false);
    const next = new Audio(address);
    next.currentTime = from;
    next.addEventListener('play', () => setPlaying(true));
    next.addEventListener('pause', () => audio.current === next && setPlaying(false));
    next.addEventListener('error', () => {
      setTrouble('This browser cannot play that file by itself; open its session to hear it.');
      setPlaying(false);
    });
    audio.current = next;
    if (goOn) void next.play().catch(() => undefined);
    return undefined;
  }, [address, of]);
  useEffect(() => () => audio.current?.pause(), []);
  const toggle = (): void => {
    const { current } = audio;
    if (!current) return;
    if (current.paused) void current.play().catch(() => undefined);
    else current.pause();
  };
  return { side, setSide, playing, toggle, trouble };
}
