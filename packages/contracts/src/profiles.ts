import { IsObject, IsOptional, IsString, IsUUID, Length } from 'class-validator';
import type { NoiseProfileFile } from '@euphonos/dsp';

/** Longest name of a profile. */
export const MAX_PROFILE_NAME_LENGTH = 120;

/** POST /api/profiles: keeps a profile. Its name is in the file. */
export class KeepProfile {
  /** Read in full by parseProfileFile of @euphonos/dsp. */
  @IsObject()
  file!: NoiseProfileFile;

  /** The session that it was taken in, if any. */
  @IsOptional()
  @IsUUID()
  sessionId?: string;
}

/** PATCH /api/profiles/:id */
export class RenameProfile {
  @IsString()
  @Length(1, MAX_PROFILE_NAME_LENGTH)
  name!: string;
}

/** A kept profile, without its values. */
export interface ProfileView {
  readonly id: string;
  readonly name: string;
  readonly takenFrom: string;
  readonly sampleRateHz: number;
  readonly channels: number;
  /** The session that it was taken in; null when it came as a file, or the session is gone. */
  readonly sessionId: string | null;
  /** How many sessions use it. */
  readonly usedBy: number;
  readonly createdAt: string;
}
