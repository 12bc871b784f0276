import { EngineError } from '../errors.js';
import type { Track } from './document.js';
import { liesInPart, partAt, partEnd } from './reel.js';
import type { Span } from './span.js';

/** A span that lies in a recording of the track, or none. @throws {EngineError} `span-outside` */
export function requireSpan({ reel }: Pick<Track, 'reel'>, span: Span | null): Span | null {
  if (span && !liesInPart(reel, span)) {
    const { startFrame } = partAt(reel, span.startFrame);
    const end = partEnd(partAt(reel, span.startFrame));
    throw new EngineError(
      'span-outside',
      `A passage from frame ${span.startFrame} to ${span.endFrame} does not lie in the recording (${startFrame} to ${end}).`,
      { span, startFrame, end },
    );
  }
  return span;
}
