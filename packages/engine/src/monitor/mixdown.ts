import { createBlock, needsProfile, type ChainSpec, type NoiseProfile, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import type { Levels } from '../arrangement/levels.js';
import { Beside, type BesideTrack } from './beside.js';
import { LevelFader } from './level-fader.js';
import { GRID_FRAMES, type Memories } from './memories.js';
import type { Timeline } from './timeline.js';
import { QUANTUM_FRAMES } from './voice.js';
import type { Voices } from './voices.js';
import { Whole } from './whole.js';

/** What is heard with the track at work: how many channels that makes, where this track stands in it, and the others. */
export interface Mix {
  readonly channels: number;
  readonly ownGains: readonly [number, number];
  readonly beside: readonly BesideTrack[];
  /** Where the session ends: it plays so far, whether this track sounds or not. */
  readonly lengthFrames: number;
}

/**
 * What is made of a track's chain, quantum by quantum: its clips' levels, the sum with the other tracks, the chain on the
 * whole. Other tracks and levels glide. Another number of channels or another whole waits until the monitor starts anew at a place, so
 * that nothing clicks.
 */
export class Mixdown {
  dry: PlanarBlock;
  own: PlanarBlock;
  mix: PlanarBlock;
  readonly levels: LevelFader;
  readonly #beside: Beside;
  #channels: number;
  #nextChannels: number;
  #sum: Float32Array[];
  #goal: readonly [number, number] = [1, 1];
  readonly #gains: [number, number] = [1, 1];
  #whole: Whole;
  #spec: ChainSpec = { treatments: [] };
  #noiseProfile: NoiseProfile | undefined;
  #nextWhole: Whole | null = null;
  /** What the chain on the whole remembers of the session, as far as it is known. */
  memories: Memories | null = null;

  constructor(
    private readonly context: Omit<ProcessorContext, 'noiseProfile'>,
    private readonly timeline: Timeline,
    private readonly fadeStep: number,
    levels: Levels | null,
  ) {
    this.#channels = this.#nextChannels = context.channels;
    this.#sum = createBlock(context.channels, QUANTUM_FRAMES);
    this.dry = this.own = this.mix = this.#sum;
    this.#beside = new Beside(fadeStep);
    this.#whole = this.#made(this.#spec);
    this.levels = new LevelFader(context.channels, fadeStep, levels);
  }

  /** By how much the chain on the whole is late. */
  get latencyFrames(): number {
    return this.#whole.latencyFrames;
  }

  /** Nothing is done to the whole. */
  get plain(): boolean {
    return this.#whole.plain;
  }

  /** How many channels come out. */
  get channels(): number {
    return this.#channels;
  }

  /** Where the session ends, as far as it is told. */
  lengthFrames = 0;

  /** How many of the other tracks are still rendered. */
  get awaited(): number {
    return this.#beside.awaited;
  }

  /** True when the monitor must start anew for it. */
  setMix({ channels, ownGains, beside, lengthFrames }: Mix): boolean {
    this.lengthFrames = lengthFrames;
    this.#beside.set(beside);
    this.#goal = ownGains;
    if (channels === this.#nextChannels) return false;
    this.#nextChannels = channels;
    this.#nextWhole = this.#made(this.#spec);
    return true;
  }

  /** Values move in place. `noiseProfile` is of the sum of all tracks. True when the monitor must start anew for it. */
  setWhole(spec: ChainSpec, noiseProfile?: NoiseProfile): boolean {
    const weighs = spec.treatments.some((settings) => !settings.bypassed && needsProfile(settings));
    const sameNoise = noiseProfile === this.#noiseProfile || !weighs;
    this.#spec = spec;
    this.#noiseProfile = noiseProfile;
    if (!this.#nextWhole && sameNoise && this.#whole.setParameters(spec)) return false;
    this.#nextWhole = this.#made(spec);
    return true;
  }

  #made(spec: ChainSpec): Whole {
    const channels = this.#nextChannels;
    // One of another number of channels is of another mix; that of this one is on its way.
    const known = this.#noiseProfile?.channels.length === channels ? { noiseProfile: this.#noiseProfile } : {};
    return new Whole({ ...this.context, channels, ...known }, spec, this.timeline, this.context.channels);
  }

  /** What is heard of the whole is what a render makes of it, wherever it started. */
  get exact(): boolean {
    return this.#whole.exact;
  }

  /** Everything from its beginning, with what was set meanwhile. */
  start(): void {
    if (this.#channels !== this.#nextChannels) this.#sum = createBlock(this.#nextChannels, QUANTUM_FRAMES);
    this.#channels = this.#nextChannels;
    this.#whole = this.#nextWhole ?? this.#whole;
    this.#nextWhole = null;
    this.#beside.start();
    [this.#gains[0], this.#gains[1]] = this.#goal;
  }

  /**
   * Where the chain on the whole begins to hear, so that it is right at a frame: at what it remembers, else so much before (`lead`,
   * from the grid on), as a render does; never before the session, where a render begins, too.
   */
  startWhole(frame: number, leadFrames: number): number {
    const start = this.#whole.startFor(frame, this.memories);
    const first = start?.startFrame ?? Math.max(0, GRID_FRAMES * Math.floor((frame - leadFrames) / GRID_FRAMES));
    this.#whole.startAt(first, start?.recall ?? null);
    return first;
  }

  /** Makes the quantum at a position: `dry`, `own` and `mix` are aligned, late by `latencyFrames`. False, and nothing moved, when samples are missing. */
  advance(position: number, voices: Voices): boolean {
    if (!this.#beside.ready(position, this.timeline)) return false;
    if (!voices.sounding.run(QUANTUM_FRAMES)) return false;
    const own = voices.blend();
    const { dry } = voices;
    this.levels.apply(own, this.timeline, position, QUANTUM_FRAMES);
    let mix = own;
    if (!this.#beside.none || own.length !== this.#channels || !this.#inTheMiddle) {
      mix = this.#sum;
      this.#place(own);
      this.#beside.add(position, this.timeline, this.#sum);
    }
    const whole = this.#whole;
    if (!whole.plain) whole.process(position, dry, own, mix);
    this.dry = whole.plain ? dry : whole.dry;
    this.own = whole.plain ? own : whole.own;
    this.mix = whole.plain ? mix : whole.mix;
    return true;
  }

  get #inTheMiddle(): boolean {
    const [left, right] = this.#gains;
    return left === 1 && right === 1 && this.#goal[0] === 1 && this.#goal[1] === 1;
  }

  /** This track where it stands. */
  #place(own: PlanarBlock): void {
    for (let c = 0; c < this.#channels; c++) {
      const from = own[c] ?? own[0]!;
      const to = this.#sum[c]!;
      const goal = this.#channels === 1 ? 1 : this.#goal[c]!;
      let gain = this.#channels === 1 ? 1 : this.#gains[c]!;
      for (let n = 0; n < QUANTUM_FRAMES; n++) {
        gain = gain < goal ? Math.min(goal, gain + this.fadeStep) : Math.max(goal, gain - this.fadeStep);
        to[n] = gain * from[n]!;
      }
      this.#gains[c] = gain;
    }
  }
}
