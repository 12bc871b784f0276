import { IsNumber, IsUUID, Max, Min } from 'class-validator';
import type { SoundFigures } from '@euphonos/dsp';
import type { RecordingFacts as PlacedFacts } from '@euphonos/engine';
import type { JobView } from './jobs.js';

/** Clocks of recorders that work differ by less, parts per million. */
export const MOST_DRIFT_PPM = 500;

/** POST /api/recordings/:id/without-drift */
export class TakeDriftOut {
  /** The session that it joins: one that holds the recording. */
  @IsUUID()
  sessionId!: string;

  /** So much longer it becomes. */
  @IsNumber()
  @Min(-MOST_DRIFT_PPM)
  @Max(MOST_DRIFT_PPM)
  ppm!: number;
}

/** What a recording is, once it has been read. */
export interface RecordingFacts {
  readonly format: string;
  readonly codec: string;
  readonly fileSampleRateHz: number;
  /** Rate of the stored samples and of the session. */
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly lengthFrames: number;
  readonly figures: SoundFigures;
  /** What was odd about the file, in words: it ended early, samples were broken. */
  readonly notes: readonly string[];
  /** When it began, in seconds of the day, where the file states it; recordings that were read before that was known do not say. */
  readonly startSeconds?: number | null;
  /** It came with a moving picture, into which its sound can go back; recordings that were read before that was known do not say. */
  readonly picture?: boolean;
}

/** A place that a file brought along, or a stretch of it. */
export interface RecordingCue {
  readonly atSeconds: number;
  /** null for a single place. */
  readonly seconds: number | null;
  readonly name: string;
  readonly note: string;
}

export interface RecordingView {
  readonly id: string;
  readonly fileName: string;
  readonly sizeBytes: number;
  /** SHA-256 of the file that was brought in. */
  readonly sha256: string;
  readonly job: JobView;
  /** Made so many parts per million longer when it was read: the drift of its clock, taken out. */
  readonly driftPpm: number;
  readonly facts: RecordingFacts | null;
  /** Of a recording with a moving picture: when the first sample is heard, in seconds of its small copy; null while that is made, or where there is none. */
  readonly pictureSoundAtSeconds: number | null;
  /** Why its small copy could not be made. */
  readonly pictureProblem: string | null;
}

/** The name of a session made from a file, and of the track of a recording: without its ending. */
export const nameOfFile = (fileName: string): string => fileName.replace(/\.[A-Za-z0-9]{1,5}$/, '') || fileName;

/** A recording that has been read, as edits of the document take it. */
export const asPlaced = ({ id, fileName, facts }: Pick<RecordingView, 'id' | 'fileName' | 'facts'>): PlacedFacts => ({
  id,
  name: nameOfFile(fileName),
  lengthFrames: facts!.lengthFrames,
  sampleRateHz: facts!.sampleRateHz,
  channels: facts!.channels,
});
