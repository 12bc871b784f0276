import { IsBoolean, IsInt, IsObject, IsOptional, IsString, IsUUID, Length, Min } from 'class-validator';
import type { Edit, SessionDocument } from '@euphonos/engine';
import type { May } from './people.js';
import type { RecordingView } from './recordings.js';

/** Longest name of a session; longer file names are cut to it. */
export const MAX_NAME_LENGTH = 200;

/** What was done, beside the document that it led to. */
export interface SavedSteps {
  /** The steps before this one are those that are known already. */
  readonly from: number;
  /** What the session began with; needed where `from` is 0. */
  readonly start: SessionDocument | null;
  /** The steps from there on, each the edits of one gesture. */
  readonly past: readonly (readonly Edit[])[];
  /** What was undone; the next to be done again first. */
  readonly future: readonly (readonly Edit[])[];
}

/** PUT /api/sessions/:id/document */
export class SaveDocument {
  /** The revision that the document was made from. Another one is refused with 409. */
  @IsInt()
  @Min(0)
  revision!: number;

  /** Read in full by parseDocument of @euphonos/engine. */
  @IsObject()
  document!: SessionDocument;

  /** The steps that led to it; left out, none are kept. Read in full by the server's steps service. */
  @IsOptional()
  @IsObject()
  steps?: SavedSteps;
}

/** PATCH /api/sessions/:id */
export class RenameSession {
  @IsString()
  @Length(1, MAX_NAME_LENGTH)
  name!: string;
}

/** POST /api/sessions/:id/hold */
export class HoldSession {
  /** Names the window that works on the session. */
  @IsUUID()
  windowId!: string;

  /** Takes it over from another window. */
  @IsOptional()
  @IsBoolean()
  take?: boolean;
}

/** Whether the window has the session, or since when another one has. */
export interface HoldView {
  readonly held: boolean;
  readonly since: string;
  /** Whose window it is; null for one's own, and where there are no accounts. */
  readonly by: string | null;
  readonly revision: number;
}

export interface SessionView {
  readonly id: string;
  readonly name: string;
  /** null until its recordings have been read. */
  readonly document: SessionDocument | null;
  readonly revision: number;
  readonly createdAt: string;
  readonly updatedAt: string;
  /** The first of its recordings. */
  readonly recording: RecordingView;
  /** All of them, as they were brought in. */
  readonly recordings: readonly RecordingView[];
  /** It waits for more recordings before it gets its document. */
  readonly gathering: boolean;
  /** The production that it belongs to. */
  readonly productionId: string | null;
  /** What whoever asks may do with it. */
  readonly may: May;
  /** Latest finished delivery. */
  readonly lastDelivery: { readonly passed: boolean; readonly integratedLufs: number | null; readonly finishedAt: string } | null;
}

export interface SavedDocument {
  readonly revision: number;
  readonly updatedAt: string;
  /** Whether the steps are kept; where not, all of them are to be sent the next time. */
  readonly stepsKept: boolean;
}
