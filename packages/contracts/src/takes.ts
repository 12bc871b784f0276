import { ArrayMaxSize, IsArray, IsInt, IsNumber, IsObject, IsOptional, IsString, IsUUID, Length, Max, Min } from 'class-validator';
import type { TakeFigures } from '@euphonos/dsp';
import type { ChainFile } from '@euphonos/engine';

/** Longest take: twelve hours; it is as long as a WAV of floats can be in a browser's own storage anyway. */
export const MOST_TAKE_SECONDS = 12 * 3600;
/** What one request brings of a take at most: a minute of two channels at 192 kHz. */
export const MOST_TAKE_BYTES = 96 * 1024 * 1024;
export const MAX_TAKE_NAME_LENGTH = 120;
/** More marks, or more holes, than this are not kept of a take. Their shape is read by the server. */
export const MOST_TAKE_MARKS = 500;

/** What is said of a moment while it is recorded. */
export const takeMarks = ['good', 'bad', 'again', 'mark'] as const;
export type TakeMarkKind = (typeof takeMarks)[number];

export interface TakeMark {
  readonly kind: TakeMarkKind;
  /** In frames of the take. */
  readonly frame: number;
}

/** A place where the device or the browser gave nothing: so many frames are missing there. */
export interface TakeGap {
  readonly frame: number;
  readonly frames: number;
}

/** POST /api/takes: something begins to be recorded. */
export class StartTake {
  /** Made by the page, which may record before it is told here. */
  @IsUUID()
  id!: string;

  @IsString()
  @Length(1, MAX_TAKE_NAME_LENGTH)
  name!: string;

  /** Takes of one sitting come into one session. */
  @IsUUID()
  sittingId!: string;

  @IsInt()
  @Min(8000)
  @Max(192000)
  sampleRateHz!: number;

  @IsInt()
  @Min(1)
  @Max(2)
  channels!: number;

  /** What it was recorded with, in words. */
  @IsString()
  @Length(0, 200)
  device!: string;

  /** How much of it came before the key was pressed. */
  @IsInt()
  @Min(0)
  preRollFrames!: number;

  /** The chain that was set when it began: kept beside it, nothing of it is in the sound. Read in full by parseChainFile of @euphonos/engine. */
  @IsOptional()
  @IsObject()
  chain?: ChainFile;

  /** The noise that the chain weighs by. */
  @IsOptional()
  @IsUUID()
  profileId?: string;
}

/** PATCH /api/takes/:id */
export class ChangeTake {
  @IsOptional()
  @IsString()
  @Length(1, MAX_TAKE_NAME_LENGTH)
  name?: string;

  @IsOptional()
  @IsArray()
  @ArrayMaxSize(MOST_TAKE_MARKS)
  marks?: TakeMark[];

  @IsOptional()
  @IsObject()
  figures?: TakeFigures;
}

/** POST /api/takes/:id/end: all of it is there. */
export class EndTake {
  @IsInt()
  @Min(1)
  frames!: number;

  @IsArray()
  @ArrayMaxSize(MOST_TAKE_MARKS)
  marks!: TakeMark[];

  @IsArray()
  @ArrayMaxSize(MOST_TAKE_MARKS)
  gaps!: TakeGap[];

  /** Level of the whole, for the list. */
  @IsOptional()
  @IsNumber()
  peakDbfs?: number;
}

/** What becomes of a take: it is recorded, it was ended and comes into its session, it is there. */
export type TakeState = 'recording' | 'ended' | 'landed';

export interface TakeView {
  readonly id: string;
  readonly name: string;
  readonly number: number;
  readonly state: TakeState;
  readonly sittingId: string;
  /** Once its first take has been ended. */
  readonly sessionId: string | null;
  readonly recordingId: string | null;
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly device: string;
  /** How much of it has arrived. */
  readonly frames: number;
  readonly preRollFrames: number;
  readonly marks: readonly TakeMark[];
  readonly gaps: readonly TakeGap[];
  readonly figures: TakeFigures | null;
  readonly startedAt: string;
  /** Of one that is recorded: how long nothing has come of it. */
  readonly silentSeconds: number | null;
  /** Why one that was ended does not come into its session, in words. */
  readonly problem: string | null;
}
