import { takenFinder, type Track } from '@euphonos/engine';
import { useMemo } from 'react';
import { useClipEdits } from '../../clips/use-clip-edits.js';

/** What was made of a place of the recording, by what stands there now. */
const MADE = { recording: 'cut', silence: 'silent', 'room-tone': 'filled' } as const;

/** Tells of a frame of the recording what an edit has made of it, and how it is given back; null where it sounds. */
export function useTaken(track: Track): (recordingFrame: number) => { readonly words: string; readonly giveBack: () => void } | null {
  const { edit } = useClipEdits();
  const find = useMemo(() => takenFinder(track.clips, track.reel), [track.clips, track.reel]);
  return (frame) => {
    const clip = find(frame);
    return clip && { words: MADE[clip.sound.kind], giveBack: () => void edit({ type: 'give-back', clipId: clip.id, side: 'before' }) };
  };
}
