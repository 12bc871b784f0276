export type JobKind = 'read' | 'render' | 'survey' | 'picture' | 'batch';
export type JobState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled';

/** An error as it is shown: what happened, what is safe, what to do. */
export interface Problem {
  readonly code: string;
  readonly message: string;
}

export interface JobView {
  readonly id: string;
  readonly kind: JobKind;
  readonly state: JobState;
  /** 0 … 1 */
  readonly progress: number;
  readonly problem: Problem | null;
}

/** Pushed likewise: something was said of a session, or it was accepted; who shows it asks again. */
export interface TalkEvent {
  readonly sessionId: string;
}

/** Pushed to the page (server-sent events, GET /api/events). */
export interface JobEvent {
  readonly job: JobView;
  readonly sessionId: string;
  /** The recording or the render that the job works on. */
  readonly subjectId: string;
}
