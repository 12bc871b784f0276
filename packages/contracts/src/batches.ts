import { ArrayMaxSize, IsArray, IsBoolean, IsDefined, IsObject, IsOptional, IsString, IsUUID, MaxLength, MinLength } from 'class-validator';
import type { DeliveryTarget } from '@euphonos/engine';
import { MAX_NAME_LENGTH } from './sessions.js';
import type { JobState } from './jobs.js';

/** POST /api/batches */
export class StartBatch {
  @IsString()
  @MinLength(1)
  @MaxLength(MAX_NAME_LENGTH)
  name!: string;

  /** A chain as it stands in its file, for all of them; left out or null, each recording gets what its own survey suggests. */
  @IsOptional()
  @IsObject()
  chain?: object | null;

  @IsDefined()
  @IsObject()
  target!: object;

  /** A kept noise profile for all of them; left out, each one's own noise is found. */
  @IsOptional()
  @IsUUID()
  profileId?: string | null;

  /** Takes what is put into a folder of its own, too, and writes results beside it. */
  @IsOptional()
  @IsBoolean()
  watching?: boolean;
}

/** PATCH /api/batches/:id */
export class ChangeBatchItems {
  @IsArray()
  @ArrayMaxSize(10_000)
  @IsUUID(undefined, { each: true })
  sessionIds!: string[];

  /** Heard, and good as it is; or not yet. */
  @IsOptional()
  @IsBoolean()
  accepted?: boolean;

  /** What failed is done again from the start. */
  @IsOptional()
  @IsBoolean()
  again?: boolean;
}

export type BatchStep = 'reading' | 'treating' | 'rendering' | 'done' | 'failed';

export interface BatchItemView {
  readonly sessionId: string;
  readonly recordingId: string;
  readonly fileName: string;
  readonly seconds: number | null;
  readonly step: BatchStep;
  readonly job: { readonly state: JobState; readonly progress: number };
  readonly problem: string | null;
  /** Why somebody should hear it; empty where nothing is known that speaks for it. */
  readonly needsEar: readonly string[];
  readonly accepted: boolean;
  readonly renderId: string | null;
  readonly resultName: string | null;
  readonly passed: boolean | null;
  readonly integratedLufs: number | null;
  readonly noiseFloorDbfs: readonly [before: number | null, after: number | null];
}

export interface BatchView {
  readonly id: string;
  readonly name: string;
  readonly createdAt: string;
  readonly target: DeliveryTarget;
  /** null: each its own. */
  readonly chainName: string | null;
  /** Where files are taken from, too; null where nothing is watched. */
  readonly folder: string | null;
  readonly items: readonly BatchItemView[];
}

export interface BatchRow {
  readonly id: string;
  readonly name: string;
  readonly createdAt: string;
  readonly folder: string | null;
  readonly all: number;
  readonly done: number;
  readonly failed: number;
}
