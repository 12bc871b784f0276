import { IsInt, IsObject, IsString, Length, Min } from 'class-validator';
import type { SessionDocument } from '@euphonos/engine';
import type { RecordingView } from './recordings.js';

/** Longest name of a session; longer file names are cut to it. */
export const MAX_NAME_LENGTH = 200;

/** PUT /api/sessions/:id/document */
export class SaveDocument {
  /** The revision that the document was made from. Another one is refused with 409. */
  @IsInt()
  @Min(0)
  revision!: number;

  /** Read in full by parseDocument of @euphonos/engine. */
  @IsObject()
  document!: SessionDocument;
}

/** PATCH /api/sessions/:id */
export class RenameSession {
  @IsString()
  @Length(1, MAX_NAME_LENGTH)
  name!: string;
}

export interface SessionView {
  readonly id: string;
  readonly name: string;
  /** null until the recording has been read. */
  readonly document: SessionDocument | null;
  readonly revision: number;
  readonly createdAt: string;
  readonly updatedAt: string;
  readonly recording: RecordingView;
  /** Latest finished delivery, for the list. */
  readonly lastDelivery: { readonly passed: boolean; readonly integratedLufs: number | null; readonly finishedAt: string } | null;
}

export interface SavedDocument {
  readonly revision: number;
  readonly updatedAt: string;
}
