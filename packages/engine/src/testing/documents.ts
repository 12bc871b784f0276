import { createDocument } from '../document/create.js';
import type { Clip, SessionDocument } from '../document/document.js';
import { requireClip } from '../document/edits.js';
import { EngineError } from '../errors.js';

/** Ten seconds at 48 kHz. */
export const LENGTH = 480_000;

/** A session of one recording with the chain that a new one starts with. */
export const fresh = (channels = 1): SessionDocument => createDocument({ id: 'r1', name: 'Narrator', lengthFrames: LENGTH, sampleRateHz: 48000, channels });
export const clipOf = (document: SessionDocument): Clip => requireClip(document, 'clip-1');
/** Names that clip in an edit. */
export const of = { clipId: 'clip-1' };

/** The code of the error that some work ends with. */
export function codeOf(work: () => unknown): string {
  try {
    work();
  } catch (error) {
    return error instanceof EngineError ? error.code : String(error);
  }
  return 'nothing thrown';
}
