import { EngineError } from '../errors.js';
import type { Track } from './document.js';
import type { Span } from './span.js';

/** A span that lies in the recording, or none. @throws {EngineError} `span-outside` */
export function requireSpan({ recordingFrames }: Pick<Track, 'recordingFrames'>, span: Span | null): Span | null {
  if (span && !(span.startFrame >= 0 && span.endFrame <= recordingFrames && span.startFrame < span.endFrame))
    throw new EngineError(
      'span-outside',
      `A passage from frame ${span.startFrame} to ${span.endFrame} does not lie in the recording (0 to ${recordingFrames}).`,
      { span, recordingFrames },
    );
  return span;
}
