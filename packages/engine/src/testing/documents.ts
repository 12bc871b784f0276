import { createDocument } from '../document/create.js';
import type { SessionDocument, Track } from '../document/document.js';
import { requireTrack } from '../document/edits.js';
import type { Reel } from '../document/reel.js';
import { EngineError } from '../errors.js';

/** Ten seconds at 48 kHz. */
export const LENGTH = 480_000;

/** A session of one recording with the chain that a new one starts with. */
export const fresh = (channels = 1): SessionDocument =>
  createDocument({ id: 'r1', name: 'Narrator', lengthFrames: LENGTH, sampleRateHz: 48000, channels });
/** The reel of one recording of a channel. */
export const reelOf = (frames: number): Reel => [{ recordingId: 'r1', channels: [0], startFrame: 0, frames }];
export const trackOf = (document: SessionDocument): Track => requireTrack(document, 'track-1');
/** Names that track in an edit. */
export const of = { trackId: 'track-1' };

/** The code of the error that some work ends with. */
export function codeOf(work: () => unknown): string {
  try {
    work();
  } catch (error) {
    return error instanceof EngineError ? error.code : String(error);
  }
  return 'nothing thrown';
}
