import { EngineError } from '../errors.js';
import type { Span } from './span.js';

/**
 * A recording on the reel of a track. All that is said of places in recordings (clips, passages, room tone, points of gain lines) is said
 * in frames of the reel, on which the track's recordings lie one behind the other, well apart: so a frame names a recording and a place in
 * it, and everything that works within one recording works on a reel.
 */
export interface ReelPart {
  readonly recordingId: string;
  /** Which channels of it the track hears, counted from 0: as many as of every other part; one may serve twice. */
  readonly channels: readonly number[];
  /** Where it lies on the reel. */
  readonly startFrame: number;
  /** Its length. */
  readonly frames: number;
}

export type Reel = readonly ReelPart[];

/** Most recordings of one track. */
export const MOST_PARTS = 200;
/** Recordings lie at multiples of this, which pictures and pieces that are fetched are multiples or parts of … */
const GRID_FRAMES = 1 << 16;
/** … and so far apart that no fade and no chain reaches from one into the next: over 10 s at 192 kHz. */
const APART_FRAMES = 1 << 21;

export const partEnd = ({ startFrame, frames }: ReelPart): number => startFrame + frames;

/** Length of a reel: where its last recording ends. */
export const reelFrames = (reel: Reel): number => (reel.length === 0 ? 0 : partEnd(reel[reel.length - 1]!));

/** How many channels a track has. */
export const reelChannels = (reel: Reel): number => reel[0]?.channels.length ?? 0;

/** The part in which a frame lies, or the last one that begins before it. */
export function partAt(reel: Reel, frame: number): ReelPart {
  let found = reel[0]!;
  for (const part of reel) if (part.startFrame <= frame) found = part;
  return found;
}

/** Where the next recording will lie. */
export const nextStart = (reel: Reel): number =>
  reel.length === 0 ? 0 : Math.ceil((reelFrames(reel) + APART_FRAMES) / GRID_FRAMES) * GRID_FRAMES;

/** Whether a span lies in one recording. */
export function liesInPart(reel: Reel, { startFrame, endFrame }: Span): boolean {
  const part = partAt(reel, startFrame);
  return startFrame >= part.startFrame && endFrame <= partEnd(part) && startFrame < endFrame;
}

/** The pieces of a span of the reel that lie in recordings, in their order. */
export function partsIn(reel: Reel, { startFrame, endFrame }: Span): { readonly part: ReelPart; readonly span: Span }[] {
  return reel.flatMap((part) => {
    const span = { startFrame: Math.max(startFrame, part.startFrame), endFrame: Math.min(endFrame, partEnd(part)) };
    return span.startFrame < span.endFrame ? [{ part, span }] : [];
  });
}

/** What a recording brings along that joins a session. */
export interface RecordingFacts {
  readonly id: string;
  readonly name: string;
  readonly lengthFrames: number;
  readonly sampleRateHz: number;
  readonly channels: number;
}

/** Its first channels for a track of so many; a mono recording serves all of them. Without a width: one or two, as it has. */
export const channelsFor = ({ channels }: Pick<RecordingFacts, 'channels'>, width = Math.min(2, channels)): number[] =>
  Array.from({ length: width }, (_, c) => Math.min(c, channels - 1));

/** The reel with one more recording behind the others. @throws {EngineError} `reel-full` */
export function withPart(reel: Reel, recording: RecordingFacts, channels?: readonly number[]): Reel {
  if (reel.length >= MOST_PARTS)
    throw new EngineError('reel-full', `A track holds up to ${MOST_PARTS} recordings. Put this one on a track of its own.`, {
      most: MOST_PARTS,
    });
  const width = reel.length === 0 ? undefined : reelChannels(reel);
  return [
    ...reel,
    {
      recordingId: recording.id,
      channels: channels ?? channelsFor(recording, width),
      startFrame: nextStart(reel),
      frames: recording.lengthFrames,
    },
  ];
}
