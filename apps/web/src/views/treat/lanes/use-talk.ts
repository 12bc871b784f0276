import { partEnd, Placer, type Reel, type Span, type Track } from '@euphonos/engine';
import { useMemo } from 'react';
import { useFindingsOf } from '../../survey/use-survey.js';

const NO_REEL: Reel = [];

/** Where somebody talks on a track, in frames of the session, as far as the surveys tell; nothing for a bed. */
export function useTalk({ reel, clips, role }: Track, sampleRateHz: number): readonly Span[] {
  const findings = useFindingsOf(role === 'bed' ? NO_REEL : reel);
  return useMemo(() => {
    if (!findings) return [];
    const pauses = findings.flatMap((finding) => (finding.kind === 'pauses' ? finding.spans : []));
    if (pauses.length === 0) return [];
    const frame = (seconds: number): number => Math.round(seconds * sampleRateHz);
    const placer = new Placer(clips);
    return reel.flatMap((part) => {
      const own = pauses
        .map(({ startSeconds, endSeconds }) => ({ startFrame: frame(startSeconds), endFrame: frame(endSeconds) }))
        .filter(({ startFrame }) => startFrame >= part.startFrame && startFrame < partEnd(part));
      return between(own, part.startFrame, partEnd(part)).flatMap((span) => placer.placesOf(span));
    });
  }, [findings, clips, reel, sampleRateHz]);
}

/** What spans in their order leave of a stretch. */
export function between(spans: readonly Span[], fromFrame: number, toFrame: number): Span[] {
  const left: Span[] = [];
  let from = fromFrame;
  for (const { startFrame, endFrame } of spans) {
    if (startFrame > from) left.push({ startFrame: from, endFrame: startFrame });
    from = Math.max(from, endFrame);
  }
  if (toFrame > from) left.push({ startFrame: from, endFrame: toFrame });
  return left;
}
