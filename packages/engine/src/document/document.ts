import type { ChainSpec } from '@euphonos/dsp';
import type { Cover } from '../delivery/cover.js';
import type { Tags } from '../delivery/tags.js';
import type { DeliveryTarget } from '../delivery/targets.js';
import type { Clip } from './clip.js';
import { partAt, partEnd, reelChannels, type Reel } from './reel.js';
import type { Span } from './span.js';

/** Schema of the stored document. Raise it with every change that older code cannot read. */
export const SCHEMA_VERSION = 6;

/**
 * Where a noise profile comes from: passages with noise alone, in frames of the reel, in their order; or a profile
 * that was kept, with the name that it had then.
 */
export type NoiseSource =
  | {
      readonly kind: 'passages';
      readonly spans: readonly Span[];
      /** Each recording on the reel has the noise of the passages that lie in it; one without any has that of all of them. */
      readonly each?: true;
    }
  | { readonly kind: 'kept'; readonly profileId: string; readonly name: string };

/** Most passages that feed one profile. */
export const MOST_PASSAGES = 8;
/** The same where each recording has its own. */
export const MOST_PASSAGES_EACH = 400;

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
  /** Where it stands among the others: -1 left, 0 in the middle, 1 right. */
  readonly pan: number;
  /** Left out where tracks are heard and rendered together. */
  readonly muted: boolean;
  /** Tracks with the same link have one chain: what changes in one changes in all. null for a chain of its own. */
  readonly chainLink: string | null;
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
  readonly wholeNoise: readonly Span[];
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
  /** Passages where all tracks together are noise alone, in frames of the session, in their order: the chain on the whole weighs by them. */
  readonly wholeNoise: readonly Span[];
  readonly versions: readonly Version[];
  /** Places and spans with names, in the order of time. */
  readonly marks: readonly Mark[];
  /** What its deliveries say of themselves. */
  readonly tags: Tags;
  /** The picture that they have; null for the one that a recording came with. */
  readonly cover: Cover | null;
}

/** A place of the session with a name, or a span of it. */
export interface Mark {
  readonly id: string;
  readonly name: string;
  /** In frames of the session. */
  readonly startFrame: number;
  /** Where the span ends; null for a single place. */
  readonly endFrame: number | null;
  readonly note: string;
}

/** Most marks of a session, and their longest texts. */
export const MOST_MARKS = 2000;
export const LONGEST_MARK_NAME = 120;
export const LONGEST_MARK_NOTE = 2000;

/** Names the whole where a chain is edited; no track is called so. */
export const WHOLE = 'whole';

/** Range of a track's level. */
export const TRACK_GAIN_DB = { min: -60, max: 24 } as const;
export const PAN = { min: -1, max: 1 } as const;

/** The tracks that are heard and rendered together. */
export const mixedTracks = ({ tracks }: Pick<SessionDocument, 'tracks'>): readonly Track[] => tracks.filter(({ muted }) => !muted);

/** A passage of the noise, and the recording whose own noise it is, where each has its own. */
export type NoisePassageSpan = Span & { readonly within?: Span };

/** What a profile is taken from, and where it counts. */
export function noisePlan({ noise, reel }: Pick<Track, 'noise' | 'reel'>): readonly NoisePassageSpan[] {
  if (noise?.kind !== 'passages') return [];
  if (!noise.each) return noise.spans;
  return noise.spans.map((span) => {
    const part = partAt(reel, span.startFrame);
    return { ...span, within: { startFrame: part.startFrame, endFrame: partEnd(part) } };
  });
}

/** Other passages for the same track: where each recording had its own noise it still has. null without any. */
export const withSpans = (noise: NoiseSource | null, spans: readonly Span[]): NoiseSource | null =>
  spans.length === 0 ? null : { kind: 'passages', spans, ...(noise?.kind === 'passages' && noise.each ? { each: true } : {}) };

/** The passages that a profile is taken from; none when it was kept before, or there is none. */
export const noiseSpans = ({ noise }: Pick<Track, 'noise'>): readonly Span[] => (noise?.kind === 'passages' ? noise.spans : []);

/**
 * What a pan makes of a channel on the left and on the right: a voice has the same power, and so the same loudness (BS.1770 adds the
 * powers of both), wherever it stands, and in the middle it is as it was. The sine and cosine law, raised by 3 dB.
 */
export function panGains(pan: number): readonly [number, number] {
  if (pan === 0) return [1, 1];
  const angle = ((Math.max(PAN.min, Math.min(PAN.max, pan)) + 1) * Math.PI) / 4;
  return [Math.SQRT2 * Math.cos(angle), Math.SQRT2 * Math.sin(angle)];
}

/** How many channels tracks have together: those of the widest, and two where one of them stands aside. */
export const mixChannels = (tracks: readonly Pick<Track, 'reel' | 'pan'>[]): number =>
  tracks.reduce((most, { reel, pan }) => Math.max(most, reelChannels(reel), pan === 0 ? 1 : 2), 1);
