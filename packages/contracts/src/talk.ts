import { IsBoolean, IsInt, IsOptional, IsString, IsUUID, Length, MaxLength, Min } from 'class-validator';

export const MOST_COMMENT_LENGTH = 2000;

/** POST /api/sessions/:id/comments */
export class MakeComment {
  @IsString()
  @Length(1, MOST_COMMENT_LENGTH)
  text!: string;

  /** Frames of the session; left out, it is of all of it. */
  @IsOptional()
  @IsInt()
  @Min(0)
  startFrame?: number;

  /** Left out, it is of a moment. */
  @IsOptional()
  @IsInt()
  @Min(1)
  endFrame?: number;

  /** The comment that it answers: it stands where that one does. */
  @IsOptional()
  @IsUUID()
  answers?: string;
}

/** PATCH /api/comments/:id */
export class ChangeComment {
  @IsOptional()
  @IsString()
  @Length(1, MOST_COMMENT_LENGTH)
  text?: string;

  @IsOptional()
  @IsBoolean()
  resolved?: boolean;
}

export interface AnswerView {
  readonly id: string;
  readonly by: string | null;
  /** Of whoever asks: they may change and take it back. */
  readonly own: boolean;
  readonly text: string;
  readonly at: string;
  readonly changed: boolean;
}

/** Something said of a stretch of a session, with what was answered. */
export interface CommentView extends AnswerView {
  readonly startFrame: number | null;
  readonly endFrame: number | null;
  /** The state of the session that it was said of. */
  readonly revision: number;
  readonly resolved: { readonly by: string | null; readonly at: string } | null;
  /** Whether whoever asks may say that it is settled, or not yet. */
  readonly maySettle: boolean;
  readonly answers: readonly AnswerView[];
}

/** POST /api/sessions/:id/acceptances */
export class AcceptSession {
  /** The state that was heard; refused with 409 where there is a newer one. */
  @IsInt()
  @Min(0)
  revision!: number;

  /** false: it was heard, and something is to be done. */
  @IsBoolean()
  accepted!: boolean;

  @IsOptional()
  @IsString()
  @MaxLength(MOST_COMMENT_LENGTH)
  note?: string;
}

/** The last word of somebody on a session. */
export interface AcceptanceView {
  readonly by: string | null;
  readonly own: boolean;
  readonly accepted: boolean;
  readonly note: string;
  readonly at: string;
  readonly revision: number;
}

/** GET /api/sessions/:id/talk */
export interface TalkView {
  /** The latest state of the session. */
  readonly revision: number;
  readonly comments: readonly CommentView[];
  readonly acceptances: readonly AcceptanceView[];
}

/** POST /api/presence */
export class SayHere {
  /** Names the window. */
  @IsUUID()
  windowId!: string;

  /** The session that is open there. */
  @IsOptional()
  @IsUUID()
  sessionId?: string;

  /** It is being closed. */
  @IsOptional()
  @IsBoolean()
  leaving?: boolean;
}

/** Somebody who has a page open. */
export interface HereView {
  readonly personId: string;
  readonly name: string;
  /** The session they look at, where whoever asks may hear it too. */
  readonly sessionId: string | null;
  readonly sessionName: string | null;
  /** They work on it; all others listen. */
  readonly holds: boolean;
}
