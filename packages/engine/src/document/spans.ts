import { EngineError } from '../errors.js';
import type { Clip, Span } from './document.js';

/** A span that lies in the clip, or none. @throws {EngineError} `span-outside` */
export function requireSpan(clip: Clip, span: Span | null): Span | null {
  if (span && !(span.startFrame >= clip.source.startFrame && span.endFrame <= clip.source.endFrame && span.startFrame < span.endFrame))
    throw new EngineError(
      'span-outside',
      `A passage from frame ${span.startFrame} to ${span.endFrame} does not lie in the clip (${clip.source.startFrame} to ${clip.source.endFrame}).`,
      { span, clip: clip.source },
    );
  return span;
}
