import type { JobKind, Problem } from './jobs.js';

/** Work that waits or is done, of one kind. */
export interface WorkState {
  readonly kind: JobKind;
  readonly queued: number;
  readonly running: number;
  /** How long the one that waits longest has waited, s; 0 where none does. */
  readonly longestWaitSeconds: number;
}

/** A process that works. */
export interface WorkerState {
  readonly name: string;
  /** It answers pages as well. */
  readonly serves: boolean;
  readonly startedAt: string;
  readonly running: number;
}

export interface FailedWork {
  readonly kind: JobKind;
  readonly createdAt: string;
  readonly sessionId: string;
  /** null where the session is gone. */
  readonly sessionName: string | null;
  readonly problem: Problem;
}

/** Where the bytes lie, each counted once. */
export interface RoomState {
  readonly freeBytes: number;
  readonly totalBytes: number;
  /** Recordings as they came. */
  readonly sourceBytes: number;
  /** Made of them: samples, peaks, spectrograms, small pictures. It is made again where it is missing. */
  readonly madeBytes: number;
  readonly deliveryBytes: number;
}

/** GET /api/room: for whoever brings something in. */
export interface RoomView {
  readonly freeBytes: number;
  readonly totalBytes: number;
  /** So little is left of the disk that somebody should make room. */
  readonly nearlyFull: boolean;
  /** Of whoever asks; null where there are no accounts. */
  readonly usedBytes: number | null;
  /** What they may hold; null: as much as there is. */
  readonly mostBytes: number | null;
}

/** What `npm run backup` left of its last run. */
export interface BackupState {
  readonly madeAt: string;
  readonly folder: string;
  readonly sizeBytes: number;
}

/** GET /api/state: how the server is, for whoever looks after it. */
export interface StateView {
  readonly startedAt: string;
  readonly work: readonly WorkState[];
  /** The last of the past seven days, newest first. */
  readonly failed: readonly FailedWork[];
  /** Processes that do the work, with what each is at. */
  readonly workers: readonly WorkerState[];
  readonly room: RoomState;
  readonly backup: BackupState | null;
  readonly versions: readonly { readonly name: string; readonly version: string }[];
}

/** GET /health */
export interface HealthView {
  readonly healthy: boolean;
  readonly database: boolean;
  readonly store: boolean;
}
