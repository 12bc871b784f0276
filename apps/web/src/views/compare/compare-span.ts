import type { Span } from '@euphonos/engine';

/** Longer is not compared: nobody remembers more, and it has to be rendered twice. */
export const MOST_SECONDS = 60;
/** So much from the playhead on, where nothing is selected or looped. */
const USUAL_SECONDS = 20;
const LEAST_SECONDS = 0.5;

/** What is compared: the selection, the loop, or what comes at the playhead. */
export function compareSpan(
  {
    selection,
    loop,
    frame,
    lengthFrames,
  }: { readonly selection: Span | null; readonly loop: Span | null; readonly frame: number; readonly lengthFrames: number },
  sampleRateHz: number,
): Span {
  const clamped = [selection, loop].map(
    (span) => span && { startFrame: Math.max(0, Math.round(span.startFrame)), endFrame: Math.min(lengthFrames, Math.round(span.endFrame)) },
  );
  const chosen = clamped.find((span) => span && span.endFrame - span.startFrame >= LEAST_SECONDS * sampleRateHz);
  if (chosen) return { ...chosen, endFrame: Math.min(chosen.endFrame, chosen.startFrame + MOST_SECONDS * sampleRateHz) };
  const frames = Math.min(lengthFrames, USUAL_SECONDS * sampleRateHz);
  const startFrame = Math.max(0, Math.min(Math.round(frame), lengthFrames - frames));
  return { startFrame, endFrame: startFrame + frames };
}
