import { Transform } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsOptional,
  IsString,
  IsUUID,
  Max,
  MaxLength,
  Min,
  ValidateIf,
} from 'class-validator';
import type { May } from './people.js';
import type { JobView } from './jobs.js';

/** What is left to do with a session. */
export const leftToDo = ['reading', 'broken', 'gathering', 'treat', 'hand-over', 'missed', 'done'] as const;
export type LeftToDo = (typeof leftToDo)[number];

export const sessionOrders = ['changed', 'made', 'name', 'length', 'noise'] as const;
export type SessionOrder = (typeof sessionOrders)[number];

/** Where sessions are: at work, put away, or deleted and still to be had. */
export const shelves = ['work', 'archive', 'deleted'] as const;
export type Shelf = (typeof shelves)[number];

/** Most rows of a page. */
export const MOST_ROWS = 200;
/** Deleted sessions are kept for so long. */
export const KEPT_DAYS = 30;

/** GET /api/sessions */
export class ListSessions {
  /** Every word must be in the name, a file name, or the production's name. */
  @IsOptional()
  @IsString()
  @MaxLength(200)
  search?: string;

  /** Of one production; "none" for those that are in none. */
  @IsOptional()
  @ValidateIf(({ production }: ListSessions) => production !== 'none')
  @IsUUID()
  production?: string;

  @IsOptional()
  @IsIn(shelves)
  shelf: Shelf = 'work';

  @IsOptional()
  @IsIn(leftToDo)
  left?: LeftToDo;

  @IsOptional()
  @IsIn(sessionOrders)
  sort: SessionOrder = 'changed';

  /** The other way round. */
  @IsOptional()
  @Transform(({ value }) => value === true || value === 'true')
  @IsBoolean()
  reverse: boolean = false;

  @IsOptional()
  @Transform(({ value }) => Number(value))
  @IsInt()
  @Min(0)
  offset: number = 0;

  @IsOptional()
  @Transform(({ value }) => Number(value))
  @IsInt()
  @Min(1)
  @Max(MOST_ROWS)
  limit: number = 60;
}

/** PATCH /api/sessions: many at once. */
export class ChangeSessions {
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(1000)
  @IsUUID(undefined, { each: true })
  ids!: string[];

  /** Into a production; null: out of any. */
  @IsOptional()
  @ValidateIf(({ productionId }: ChangeSessions) => productionId !== null)
  @IsUUID()
  productionId?: string | null;

  @IsOptional()
  @IsBoolean()
  archived?: boolean;

  /** true puts them where they can be had back for 30 days, false brings them back. */
  @IsOptional()
  @IsBoolean()
  deleted?: boolean;
}

/** A session as the list shows it: nothing of its document. */
export interface SessionRow {
  readonly id: string;
  readonly name: string;
  readonly production: { readonly id: string; readonly name: string } | null;
  /** What whoever asks may do with it. */
  readonly may: May;
  /** Who works on it right now, where several people share the installation. */
  readonly heldBy: string | null;
  /** Comments that are not settled. */
  readonly openComments: number;
  /** The last word on its present state; null: nobody said one. */
  readonly accepted: boolean | null;
  readonly createdAt: string;
  readonly updatedAt: string;
  /** When it was deleted, and so how long it can be had back; null for one that is not. */
  readonly deletedAt: string | null;
  readonly left: LeftToDo;
  /** Length of what it makes; null until it has been read. */
  readonly seconds: number | null;
  readonly tracks: number;
  readonly recordings: number;
  readonly sizeBytes: number;
  /** The first of its recordings; of several that are read the one that is. */
  readonly recording: {
    readonly id: string;
    readonly fileName: string;
    readonly job: JobView;
    readonly lengthFrames: number | null;
    readonly sampleRateHz: number | null;
    readonly fileSampleRateHz: number | null;
    readonly channels: number | null;
    readonly codec: string | null;
    readonly noiseFloorDbfs: number | null;
    readonly notes: readonly string[];
  };
  readonly lastDelivery: { readonly passed: boolean; readonly integratedLufs: number | null; readonly finishedAt: string } | null;
}

export interface SessionPage {
  readonly rows: readonly SessionRow[];
  /** How many there are in all. */
  readonly total: number;
}
