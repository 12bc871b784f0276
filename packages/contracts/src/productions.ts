import type { May } from './people.js';
import { IsBoolean, IsInt, IsOptional, IsString, Length, Min, ValidateIf } from 'class-validator';

export const MAX_PRODUCTION_NAME_LENGTH = 120;

/** POST /api/productions */
export class MakeProduction {
  @IsString()
  @Length(1, MAX_PRODUCTION_NAME_LENGTH)
  name!: string;
}

/** PATCH /api/productions/:id */
export class ChangeProduction {
  @IsOptional()
  @IsString()
  @Length(1, MAX_PRODUCTION_NAME_LENGTH)
  name?: string;

  /** Put away with all its sessions, or taken out again. */
  @IsOptional()
  @IsBoolean()
  archived?: boolean;

  /** What it may hold, set by owners; null: as much as there is. */
  @IsOptional()
  @ValidateIf(({ mostBytes }: ChangeProduction) => mostBytes !== null)
  @IsInt()
  @Min(0)
  mostBytes?: number | null;
}

/** Sessions that belong together. */
export interface ProductionView {
  readonly id: string;
  readonly name: string;
  /** How many sessions it holds, those that were deleted left out. */
  readonly sessions: number;
  readonly archived: boolean;
  /** What whoever asks may do there. */
  readonly may: May;
  /** With how many others it is shared. */
  readonly sharedWith: number;
  /** Recordings of its sessions, and what it may hold of them. */
  readonly usedBytes: number;
  readonly mostBytes: number | null;
}
