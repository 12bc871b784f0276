import { LEAD_SECONDS, type ChainSpec, type NoiseProfile, type ProcessorContext } from '@euphonos/dsp';
import type { Levels } from '../arrangement/levels.js';
import type { Memories } from './memories.js';
import type { SampleStore } from './sample-store.js';
import type { Timeline } from './timeline.js';
import { Voice } from './voice.js';

/** What is played: samples before the chain, their length, and what the clips do to the level after it. */
export interface MonitorSource {
  readonly store: SampleStore;
  readonly lengthFrames: number;
  readonly levels: Levels | null;
}

/** A source with its chain: `prepared` is what the chain hears, `whole` what was rendered of it beforehand and the chain together. */
export interface SourceWithChain {
  readonly source: MonitorSource;
  readonly spec: ChainSpec;
  readonly prepared: SampleStore;
  readonly whole: ChainSpec;
}

/** All that a voice is made of: source, chain, profile, and what the chain remembers; and another source that waits for the old one to have faded out. */
export class Hearing {
  memories: Memories | null = null;
  #now: SourceWithChain;
  #next: SourceWithChain | null = null;
  #profile: NoiseProfile | undefined;
  readonly #leadFrames: number;

  constructor(
    private readonly context: Omit<ProcessorContext, 'noiseProfile'>,
    private readonly timeline: Timeline,
    source: MonitorSource,
  ) {
    this.#now = { source, spec: { treatments: [] }, prepared: source.store, whole: { treatments: [] } };
    this.#leadFrames = Math.round(LEAD_SECONDS * context.sampleRateHz);
  }

  get source(): MonitorSource {
    return this.#now.source;
  }

  /** The source that was given last, taken or not. */
  get latestSource(): MonitorSource {
    return (this.#next ?? this.#now).source;
  }

  get awaitsSource(): boolean {
    return this.#next !== null;
  }

  setSource(next: SourceWithChain): void {
    this.#next = next;
  }

  /** Returns whether the profile is the same as before. */
  setChain(spec: ChainSpec, profile: NoiseProfile | undefined, prepared: SampleStore, whole: ChainSpec): boolean {
    const same = profile === this.#profile;
    this.#profile = profile;
    if (this.#next) this.#next = { ...this.#next, spec, prepared, whole };
    else this.#now = { ...this.#now, spec, prepared, whole };
    return same;
  }

  /** False when they wait with another source. */
  setLevels(levels: Levels | null): boolean {
    const of = (one: SourceWithChain): SourceWithChain => ({ ...one, source: { ...one.source, levels } });
    if (this.#next) this.#next = of(this.#next);
    else this.#now = of(this.#now);
    return this.#next === null;
  }

  /** Takes the source that waits; false when none does. */
  takeSource(): boolean {
    if (!this.#next) return false;
    this.#now = this.#next;
    this.#next = null;
    this.timeline.setStore(this.#now.source.store);
    return true;
  }

  createVoice(): Voice {
    const { spec, prepared, whole } = this.#now;
    return new Voice({ ...this.context, noiseProfile: this.#profile }, spec, this.timeline, { store: prepared, whole });
  }

  /** Lets a voice begin before a position: from what is remembered, where it is known. */
  start(voice: Voice, position: number): void {
    voice.startAt(position, this.#leadFrames, this.memories);
  }

  /** Whether a voice could begin from what is remembered. */
  knows(voice: Voice, position: number): boolean {
    return this.memories !== null && voice.knows(this.memories, position);
  }
}
