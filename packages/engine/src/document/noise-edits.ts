import { endOf } from '../arrangement/places.js';
import { EngineError } from '../errors.js';
import { MOST_PASSAGES, MOST_PASSAGES_EACH, type NoiseSource, type SessionDocument, type Track } from './document.js';
import { liesInPart, partAt } from './reel.js';
import type { Span } from './span.js';
import { requireSpan } from './spans.js';

/** Passages in their order; those that touch become one. */
export function requireNoise(track: Track, noise: NoiseSource | null): NoiseSource | null {
  if (noise?.kind !== 'passages') return noise;
  for (const span of noise.spans) requireSpan(track, span);
  const spans = joinedSpans(noise.spans, noise.each ? MOST_PASSAGES_EACH : MOST_PASSAGES);
  return spans.length === 0 ? null : { kind: 'passages', spans, ...(noise.each ? { each: true } : {}) };
}

/** Passages of the session for the chain on the whole. @throws {EngineError} `span-outside`, `passages-many` */
export function setWholeNoise(document: SessionDocument, spans: readonly Span[]): SessionDocument {
  const end = Math.max(...document.tracks.map(({ clips }) => endOf(clips)));
  const beyond = spans.find(({ endFrame }) => endFrame > end);
  if (beyond)
    throw new EngineError('span-outside', `A passage to frame ${beyond.endFrame} does not lie in the session, which ends at ${end}.`, {
      span: beyond,
      end,
    });
  return { ...document, wholeNoise: joinedSpans(spans, MOST_PASSAGES) };
}

/** In their order; those that touch become one. */
function joinedSpans(given: readonly Span[], most: number): Span[] {
  const spans: Span[] = [];
  for (const span of [...given].sort((a, b) => a.startFrame - b.startFrame)) {
    const last = spans[spans.length - 1];
    if (last && span.startFrame <= last.endFrame)
      spans[spans.length - 1] = { startFrame: last.startFrame, endFrame: Math.max(last.endFrame, span.endFrame) };
    else spans.push(span);
  }
  if (spans.length > most)
    throw new EngineError(
      'passages-many',
      `A noise profile is taken from up to ${most} passages; this would be ${spans.length}. Drop one first.`,
      { most },
    );
  return spans;
}

/**
 * Every track that hears the recording in which the passage lies and that is neither a bed nor held takes its own profile from it. The passage is in
 * frames of the reel of the track named, of the first one where none is.
 */
export function profileTracks(document: SessionDocument, span: Span, trackId?: string): SessionDocument {
  const from = document.tracks.find(({ id }) => id === trackId) ?? document.tracks[0]!;
  const { recordingId, startFrame } = partAt(from.reel, span.startFrame);
  const take = (track: Track): Track => {
    const part = track.reel.find((other) => other.recordingId === recordingId);
    if (track.noiseHeld || track.role === 'bed' || !part) return track;
    const own = { startFrame: span.startFrame - startFrame + part.startFrame, endFrame: span.endFrame - startFrame + part.startFrame };
    return liesInPart(track.reel, own) ? { ...track, noise: { kind: 'passages', spans: [own] } } : track;
  };
  return { ...document, tracks: document.tracks.map(take) };
}
