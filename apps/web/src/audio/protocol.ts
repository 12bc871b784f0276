import type { ChainSpec, KernelModule, NoiseProfile } from '@euphonos/dsp';
import type { MemoryNews } from '../passage/chain-memory.js';
import type { Lane, LevelTable, MeterReading, MonitorStatus, Span } from '@euphonos/engine';

/** Given to the worklet when it is made. */
export interface MonitorOptions {
  readonly kernels: KernelModule;
  readonly channels: number;
  readonly source: SourceNews;
}

/**
 * What is played: the store of that number, and what clips do to the level after the chain; null where they do nothing.
 */
export interface SourceNews {
  readonly store: number;
  readonly lengthFrames: number;
  readonly levels: LevelTable | null;
}

/** Another track: the number of its store, and how loud it is left and right. */
export interface BesideNews {
  readonly id: string;
  readonly store: number;
  readonly channels: number;
  readonly lengthFrames: number;
  readonly gains: readonly [number, number];
}

export interface MixNews {
  readonly channels: number;
  readonly ownGains: readonly [number, number];
  readonly beside: readonly BesideNews[];
  /** Where the session ends. */
  readonly lengthFrames: number;
}

/** Some of what the chain on the whole remembers, under the key of the chain; with an empty one what was known is forgotten. */
export interface WholeMemories {
  readonly key: string;
  readonly spacingFrames: number;
  readonly held: MemoryNews['held'];
}

/**
 * From the page to the worklet. Stores have numbers, later ones higher: of a track before its chain, and of what was
 * rendered of it in the background (`prepared`; 0 where the chain hears the track itself). `spec` is the whole chain, what is
 * rendered in the background included.
 */
export type MonitorCommand =
  | { readonly type: 'chain'; readonly spec: ChainSpec; readonly prepared: number }
  | { readonly type: 'profile'; readonly profile: NoiseProfile | null; readonly spec: ChainSpec; readonly prepared: number }
  | { readonly type: 'source'; readonly source: SourceNews; readonly spec: ChainSpec; readonly prepared: number; readonly frame: number }
  | { readonly type: 'levels'; readonly levels: LevelTable | null }
  /** The other tracks, each with the store of what its chain makes of it, and where this one stands among them. */
  | { readonly type: 'mix'; readonly mix: MixNews }
  | { readonly type: 'whole'; readonly spec: ChainSpec; readonly profile: NoiseProfile | null }
  /** Some of what the chain of that key remembers of the track: more of what came before, when the key is the same. */
  | { readonly type: 'memories'; readonly key: string; readonly spacingFrames: number; readonly held: MemoryNews['held'] }
  | ({ readonly type: 'whole-memories' } & WholeMemories)
  | { readonly type: 'lane'; readonly lane: Lane }
  | { readonly type: 'gains'; readonly gainsDb: Readonly<Record<Lane, number>> }
  /** How fast it is played, pitch kept: 0.5 … 2. */
  | { readonly type: 'speed'; readonly speed: number }
  | { readonly type: 'loop'; readonly loop: Span | null }
  | { readonly type: 'play'; readonly frame: number }
  | { readonly type: 'stop' }
  | { readonly type: 'chunk'; readonly store: number; readonly index: number; readonly channels: Float32Array[] }
  | { readonly type: 'drop'; readonly store: number; readonly index: number };

/** From the worklet to the page, some 30 times a second while it plays. */
export interface MonitorReport {
  readonly status: MonitorStatus;
  /** The frame that sounds at `contextSeconds` of the audio clock. */
  readonly frame: number;
  readonly contextSeconds: number;
  readonly meters: MeterReading;
  /** How many play commands it has taken so far: a report with fewer than were sent is out of date. */
  readonly plays: number;
  /** What is heard is what a render makes of it. */
  readonly exact: boolean;
  /** How many of the other tracks are to be heard and still rendered. */
  readonly awaited: number;
  readonly speed: number;
  /** It still sounds at the old place, for the few milliseconds of a fade. */
  readonly leaving: boolean;
}

/** The node gives two channels always; what has one sounds on both. */
export const OUTPUT_CHANNELS = 2;

export const PROCESSOR_NAME = 'euphonos-monitor';
