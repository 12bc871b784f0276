import type { RecordingView } from '@euphonos/contracts';
import { partAt, partEnd, recordingFrameAt, type Track } from '@euphonos/engine';

/** Which picture is shown of a session, and where in it a frame of the session is. */
export interface PictureSource {
  readonly recordingId: string;
  readonly fileName: string;
  /** The small copy can be shown. */
  readonly ready: boolean;
  /** Why it never will be; null while that is not known. */
  readonly problem: string | null;
  /** Seconds of the small copy; null where nothing of this recording sounds. */
  secondsAt(frame: number): number | null;
}

/** The picture of the track that is worked on, or else of the first that has one. */
export function pictureSource(
  recordings: readonly RecordingView[],
  tracks: readonly Track[],
  active: Track,
  sampleRateHz: number,
): PictureSource | null {
  for (const track of [active, ...tracks])
    for (const { recordingId } of track.reel) {
      const recording = recordings.find(({ id }) => id === recordingId);
      if (!recording?.facts?.picture) continue;
      const soundAt = recording.pictureSoundAtSeconds;
      return {
        recordingId,
        fileName: recording.fileName,
        ready: soundAt !== null,
        problem: recording.pictureProblem,
        secondsAt: (frame) => {
          const at = recordingFrameAt(track.clips, frame);
          if (at === null || soundAt === null) return null;
          const part = partAt(track.reel, at);
          return part.recordingId === recordingId && at < partEnd(part) ? soundAt + (at - part.startFrame) / sampleRateHz : null;
        },
      };
    }
  return null;
}
