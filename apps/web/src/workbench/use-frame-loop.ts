import { useEffect, useRef } from 'react';

/** Calls once a frame of the screen, for what moves while it plays: playhead, clock, meters. */
export function useFrameLoop(call: () => void): void {
  const latest = useRef(call);
  useEffect(() => {
    latest.current = call;
  });
  useEffect(() => {
    let frame = requestAnimationFrame(function tick() {
      latest.current();
      frame = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(frame);
  }, []);
}
