import type { RecordingFacts, RenderReport } from '@euphonos/contracts';
import type { ChainSpec, NoiseProfileFile } from '@euphonos/dsp';
import type { DeliveryTarget, FileSpec, PartMemory, Span, Track } from '@euphonos/engine';
import type { FileExtras, ReelFiles } from '@euphonos/media';
import type { MessagePort } from 'node:worker_threads';
import type { StoreSettings } from '../media-store/media-store.js';
import type { RecordingBlobs } from '../recordings/recording.entity.js';

/** What a worker thread is told when it begins. */
export interface ThreadData {
  /** How far it gives way to others, 0 … 19. */
  readonly niceness: number;
}

/** What goes to a worker thread and comes back. Messages on the port: numbers are progress, 'cancel' cancels; a part that was made is answered by 'kept'. */
export interface ReadTask {
  readonly originalPath: string;
  /** The rate of the session that it joins; null: its own, or the nearest that a session can have. */
  readonly rateHz: number | null;
  /** So many parts per million longer: its clock ran slow. */
  readonly driftPpm: number;
  readonly store: StoreSettings;
  readonly port: MessagePort;
}

export interface ReadResult {
  readonly facts: RecordingFacts;
  readonly blobs: RecordingBlobs;
}

/** A track that is rendered. */
export interface TrackTask {
  readonly track: Track;
  /** The kept profile that the track uses, if it does. */
  readonly profile: NoiseProfileFile | null;
  /** Files of the recordings on its reel. */
  readonly reel: readonly ReelFiles[];
}

/** Parts of a render that are there already, and what each chain remembers at their end: of tracks, as far as they go on, then of the whole. */
export interface HeldParts {
  readonly shas: readonly string[];
  readonly memories: readonly (PartMemory | undefined)[];
}

/** So many parts are complete; the last of them lies in the store. */
export interface PartMade {
  readonly parts: number;
  readonly sha: string;
  readonly memories: readonly (PartMemory | undefined)[];
}

export interface RenderTask {
  /** One by itself, or all that are mixed. */
  readonly tracks: readonly TrackTask[];
  /** What treats their sum, and where that is noise alone. */
  readonly whole: ChainSpec;
  readonly wholeNoise: readonly Span[];
  readonly target: DeliveryTarget;
  /** Tags and chapters of the file. */
  readonly extras: FileExtras;
  /** A picture goes along: this one, or the cover of a sound file, where it has one. */
  readonly cover: { readonly path: string; readonly isPicture: boolean } | null;
  /** The sound goes into this picture, in a container with that ending; null where it is a file of its own. */
  readonly picture: { readonly originalPath: string; readonly ending: string; readonly keepOthers: boolean } | null;
  /** The track is rendered as it is in a mix of so many channels and frames; null for a delivery. */
  readonly stem: {
    readonly channels: number;
    readonly frames: number;
    /** How it is written; null: as floats, so that nothing clips. */
    readonly file: FileSpec | null;
  } | null;
  readonly sampleRateHz: number;
  /** How it is kept on its way; null where it is not. `label` makes the bytes of its parts its own. */
  readonly parts: { readonly partFrames: number; readonly label: string; readonly held: HeldParts | null } | null;
  readonly store: StoreSettings;
  readonly port: MessagePort;
}

export interface SurveyTask {
  /** Files of the channels that are surveyed. */
  readonly channelPaths: readonly string[];
  readonly sampleRateHz: number;
  readonly lengthFrames: number;
  readonly port: MessagePort;
}

/** A picture of the sound of a file. */
export interface PictureTask {
  readonly path: string;
  /** In the colours of a source, or of a result. */
  readonly of: 'source' | 'result';
  readonly port: MessagePort;
}

export interface PictureDone {
  /** In base 64. */
  readonly png: string;
}

export interface RenderDone {
  readonly fileSha: string;
  /** null for a stem, which is not checked against anything. */
  readonly report: RenderReport | null;
}

/** An error crosses threads as data. */
export interface TaskFailure {
  readonly failure: { readonly name: string; readonly code: string; readonly message: string };
}
