import type { ChainSpec } from '@euphonos/dsp';
import type { Span } from './span.js';

/** How a fade goes: evenly in amplitude; evenly in power; or slowly at both ends. */
export type FadeCurve = 'linear' | 'equal-power' | 's';
export const fadeCurves: readonly FadeCurve[] = ['linear', 'equal-power', 's'];

/** 0 frames: as short as it may be without a click. Where two clips touch, both of them fade over the joint. */
export interface Fade {
  readonly frames: number;
  readonly curve: FadeCurve;
}

/** A point of a gain line, at a frame of the recording. */
export interface GainPoint {
  readonly frame: number;
  readonly gainDb: number;
}

/**
 * What is heard of a clip: its recording; nothing; or room tone in its place, at a gain that meets the level around it.
 * The recording beneath is not forgotten.
 */
export type ClipSound =
  { readonly kind: 'recording' } | { readonly kind: 'silence' } | { readonly kind: 'room-tone'; readonly gainDb: number };

export const RECORDING: ClipSound = { kind: 'recording' };
export const NO_FADE: Fade = { frames: 0, curve: 'equal-power' };

/** A stretch of a recording at a place in the session. As long as `source`. */
export interface Clip {
  readonly id: string;
  /** Place on the session's time axis. */
  readonly startFrame: number;
  /** Which span of the recording sounds. */
  readonly source: Span;
  readonly sound: ClipSound;
  readonly gainDb: number;
  /** Points in their order; before the first and after the last the line goes on level. Without any it is 0 dB. */
  readonly line: readonly GainPoint[];
  readonly fadeIn: Fade;
  readonly fadeOut: Fade;
  /** What treats this stretch alone, before the chain of the track; null for nothing. */
  readonly chain: ChainSpec | null;
}

/** Ranges of what a clip can be set to. */
export const CLIP_GAIN_DB = { min: -60, max: 24 } as const;
export const LONGEST_FADE_SECONDS = 30;
export const MOST_CLIPS = 50_000;
/** Shorter pieces could not be faded without a click: an edge so near to another is that edge. */
export const SHORTEST_CLIP_FRAMES = 48;
export const MOST_POINTS = 2000;

/** A clip of a span as it is. */
export const plainClip = (id: string, startFrame: number, source: Span): Clip => ({
  id,
  startFrame,
  source,
  sound: RECORDING,
  gainDb: 0,
  line: [],
  fadeIn: NO_FADE,
  fadeOut: NO_FADE,
  chain: null,
});

export const clipFrames = ({ source }: Clip): number => source.endFrame - source.startFrame;
export const clipEnd = (clip: Clip): number => clip.startFrame + clipFrames(clip);
/** Frames of the recording from frames of the session, and back. */
export const offsetOf = ({ source, startFrame }: Clip): number => source.startFrame - startFrame;
