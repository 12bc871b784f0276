import type { ChainSpec } from '@euphonos/dsp';
import type { DeliveryTarget } from '../delivery/targets.js';

/** Schema of the stored document. Raise it with every change that older code cannot read. */
export const SCHEMA_VERSION = 1;

/** Half-open span of frames [startFrame, endFrame) of a recording. */
export interface Span {
  readonly startFrame: number;
  readonly endFrame: number;
}

/** A stretch of a recording on a track, with the chain that treats it. */
export interface Clip {
  readonly id: string;
  readonly recordingId: string;
  /** Place on the session's time axis. */
  readonly startFrame: number;
  /** Which span of the recording sounds. */
  readonly source: Span;
  /** Which one or two channels of the recording are used, counted from 0. */
  readonly channels: readonly number[];
  readonly chain: ChainSpec;
  /** The passage with noise alone that the noise profile is taken from, in frames of the recording. */
  readonly noisePassage: Span | null;
  /** The passage that repeats while listening, in frames of the recording. */
  readonly loop: Span | null;
}

export interface Track {
  readonly id: string;
  readonly name: string;
  readonly role: 'speech' | 'bed';
  readonly clips: readonly Clip[];
}

/** Everything that is decided in a session. The recordings themselves never change. */
export interface SessionDocument {
  readonly schemaVersion: typeof SCHEMA_VERSION;
  readonly sampleRateHz: number;
  readonly tracks: readonly Track[];
  readonly target: DeliveryTarget;
}

export const spanFrames = (span: Span): number => span.endFrame - span.startFrame;

/** All clips, track by track. */
export const clipsOf = (document: SessionDocument): Clip[] => document.tracks.flatMap(({ clips }) => clips);
