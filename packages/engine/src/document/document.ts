import type { ChainSpec } from '@euphonos/dsp';
import type { DeliveryTarget } from '../delivery/targets.js';
import type { Clip } from './clip.js';
import type { Reel } from './reel.js';
import type { Span } from './span.js';

/** Schema of the stored document. Raise it with every change that older code cannot read. */
export const SCHEMA_VERSION = 4;

/**
 * Where a noise profile comes from: passages with noise alone, in frames of the reel, in their order; or a profile
 * that was kept, with the name that it had then.
 */
export type NoiseSource =
  | { readonly kind: 'passages'; readonly spans: readonly Span[] }
  | { readonly kind: 'kept'; readonly profileId: string; readonly name: string };

/** Most passages that feed one profile. */
export const MOST_PASSAGES = 8;

/** Most tracks of a session. */
export const MOST_TRACKS = 32;

/** A person, a microphone or a bed: recordings, the chain that treats them, and the clips that are made of them. */
export interface Track {
  readonly id: string;
  readonly name: string;
  readonly role: 'speech' | 'bed';
  /** Its recordings, one at least. Frames of recordings are frames of this. */
  readonly reel: Reel;
  readonly chain: ChainSpec;
  /** What the noise reduction knows of the noise; null when it has no profile. */
  readonly noise: NoiseSource | null;
  /** Keeps its profile when all tracks are profiled at once. */
  readonly noiseHeld: boolean;
  /** The passage that repeats while listening, in frames of the session. */
  readonly loop: Span | null;
  /** What sounds when, in the order of time, none over another. */
  readonly clips: readonly Clip[];
  /** How many clips were ever made: the next one's id. */
  readonly clipsMade: number;
  /** The passage of the recording that room tone is made of; null while there is none. */
  readonly roomTone: Span | null;
  /** Level of the track among the others. */
  readonly gainDb: number;
  /** Left out where tracks are heard and rendered together. */
  readonly muted: boolean;
}

/** The settings of a session at one moment, under a name. */
export interface Version {
  readonly id: string;
  readonly name: string;
  /** ISO 8601. */
  readonly keptAt: string;
  readonly tracks: readonly Track[];
  readonly target: DeliveryTarget;
  readonly chain: ChainSpec;
}

/** Most versions of a session. */
export const MOST_VERSIONS = 20;

/** Everything that is decided in a session. The recordings themselves never change. */
export interface SessionDocument {
  readonly schemaVersion: typeof SCHEMA_VERSION;
  readonly sampleRateHz: number;
  readonly tracks: readonly Track[];
  readonly target: DeliveryTarget;
  /** What treats the sum of all tracks. */
  readonly chain: ChainSpec;
  readonly versions: readonly Version[];
}

/** Names the whole where a chain is edited; no track is called so. */
export const WHOLE = 'whole';

/** Range of a track's level. */
export const TRACK_GAIN_DB = { min: -60, max: 12 } as const;

/** The tracks that are heard and rendered together. */
export const mixedTracks = ({ tracks }: Pick<SessionDocument, 'tracks'>): readonly Track[] => tracks.filter(({ muted }) => !muted);

/** The passages that a profile is taken from; none when it was kept before, or there is none. */
export const noiseSpans = ({ noise }: Pick<Track, 'noise'>): readonly Span[] => (noise?.kind === 'passages' ? noise.spans : []);
